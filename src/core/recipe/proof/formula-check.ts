/** Comparing every computed field with its formula: what proves, on reading, that the recipe could write the file. */
import { readChunks } from '../../bytes';
import { FaultError, throwIfStopped, type Fault } from '../../faults';
import { bitsOf } from '../formula/bits';
import {
  isList,
  sameValue,
  scopeOf,
  showValue,
  truthy,
  type EntryFacts,
  type Fields,
  type FileFacts,
  type Scope,
  type Value,
} from '../formula/value';
import type { Check as Condition, Field, Formula, Part, Shape } from '../model';
import type { OpenedArchive } from '../read/opened-archive';
import { tellsBlock, type BlockPlace } from '../read/blocks';
import { ChoiceColumn, instanceOf, itemsOf, ShapeColumn, type Column } from '../read/columns';
import { knownBlocks, entryScope, openEntry, storedSource, type OpenedEntry } from '../read/entry-bytes';
import { factsWith } from '../read/entry-facts';
import { LateHashes, spanBytes, type SpanRequest } from '../read/late-hashes';
import type { FoundRegion } from '../read/read-region';
import type { RowCursor, Table } from '../read/table';
import { entryFacts, hashesWanted, withContent } from './entry-content';
import {
  agreesByItself,
  asksNoEntry,
  fieldOffset,
  formulasIn,
  isFree,
  usesBytes,
  usesPrevious,
} from './field-formulas';

export interface FormulaCheck {
  readonly agree: number;
  readonly total: number;
  /** The first that disagree, at most {@link MAX_FAULTS}. */
  readonly faults: readonly Fault[];
  /** How many disagree, by the line of their formula in the recipe. */
  readonly differing: ReadonlyMap<number, number>;
  /** False when formulas over bytes were left out: a deep check would compare more. */
  readonly isWhole: boolean;
}

export interface FormulaCheckOptions {
  /** Also formulas over bytes: of the file, and of all entries or of those named here, which are read for it. */
  readonly deep: boolean | ReadonlySet<number>;
  readonly signal?: AbortSignal | undefined;
  /** Entries checked so far, in a deep check. */
  readonly progress?: (done: number) => void;
}

const MAX_FAULTS = 20;

/** Evaluates the formula of every field of every row and compares. */
export async function checkFormulas(archive: OpenedArchive, options: FormulaCheckOptions): Promise<FormulaCheck> {
  const check = new Check(archive, options);
  for (const found of archive.regions.values()) await check.region(found);
  check.entries();
  if (options.deep !== false) await check.deepFields();
  return check.result();
}

const NO_ROWS: Scope['rows'] = [];

/** True when a row of a column holds instances of shapes. */
function holdsRows(column: Column, row: number): boolean {
  return instanceOf(column, row) !== undefined || itemsOf(column, row) !== undefined;
}

/** A field that can only be compared once bytes have been read. */
interface Deferred {
  readonly table: Table;
  readonly row: number;
  readonly field: Field;
  readonly entry: number;
  readonly folder: number;
  readonly place: Partial<Fault>;
  /** The file the field lies in, by its place among the opened volumes. */
  readonly volume: number;
}

function usesPath({ uses }: Formula): boolean {
  return uses.entry.has('path') || uses.entry.has('name') || uses.entry.has('folder');
}

/** Which of a shape's fields must be looked at, worked out once. */
interface Plan {
  /** Fields that agree because the entry's property was read from them. */
  readonly given: readonly Field[];
  readonly plain: readonly Field[];
  readonly deep: readonly Field[];
  readonly nested: readonly Field[];
  /** Fields with conditions of the recipe's own. */
  readonly checked: readonly Field[];
}

class Check {
  private agree = 0;
  private isWhole = true;
  private total = 0;
  private readonly faults: Fault[] = [];
  private readonly differing = new Map<number, number>();
  private readonly deferred: Deferred[] = [];
  private readonly plans = new Map<Shape, Plan>();
  private readonly scope: Scope;
  private readonly besideEntry: readonly (ReadonlyMap<number, number> | undefined)[];
  private readonly looksBack: boolean;
  private blockOwner: { entry: Int32Array; index: Int32Array } | undefined;
  /** The wrap of the entry whose rows are being compared. */
  private own: Fields | undefined;
  private lastBlocks: { entry: number; blocks: readonly BlockPlace[] } | undefined;

  constructor(
    private readonly archive: OpenedArchive,
    private readonly options: FormulaCheckOptions,
  ) {
    this.scope = scopeOf(archive.facts);
    this.looksBack = usesPrevious(archive);
    if (archive.recipe.entries.wrap !== undefined) this.isWhole = options.deep === true;
    const { entries } = archive;
    this.besideEntry = entries.beside.map((_, k) => {
      const map = new Map<number, number>();
      for (let i = 0; i < entries.count; i++) map.set(entries.besideRow(k, i), i);
      return map;
    });
  }

  result(): FormulaCheck {
    return {
      agree: this.agree,
      total: this.total,
      faults: this.faults,
      differing: this.differing,
      isWhole: this.isWhole,
    };
  }

  async region(found: FoundRegion): Promise<void> {
    if (found.column === undefined) return;
    this.scope.volume = found.volume;
    const { region } = found;
    const place = { region: region.name, ...(found.unlocked ? { within: region.name } : {}) };
    this.value(found.column, 0, -1, -1, place);
  }

  /** Walks what lies in one row of a column. */
  private value(column: Column, row: number, entry: number, folder: number, place: Partial<Fault>): void {
    if (column instanceof ChoiceColumn) {
      const chosen = column.chosenColumn(row);
      if (chosen !== undefined) this.value(chosen, row, entry, folder, place);
      return;
    }
    const instance = instanceOf(column, row);
    if (instance !== undefined) {
      const { table } = instance;
      return this.guarded(
        () => this.instance(table, instance.row, entry, folder, place),
        () => ({ ...place, line: table.shape.line, offset: table.start(instance.row) }),
      );
    }
    const items = itemsOf(column, row);
    if (items === undefined) return;
    if (!(items.column instanceof ShapeColumn || items.column instanceof ChoiceColumn)) return;
    if (this.isIdle(items.column, items.count)) return;
    const outer = this.scope.index;
    for (let i = 0; i < items.count; i++) {
      if (i % 4096 === 0) throwIfStopped(this.options.signal);
      this.scope.index = i;
      this.value(items.column, items.first + i, entry, folder, place);
    }
    this.scope.index = outer;
  }

  /** What cannot be compared disagrees, with its place. */
  private guarded(work: () => void, place: () => Partial<Fault>): void {
    const { scope, archive } = this;
    const { outer, fields, index } = scope;
    const levels = outer.length;
    try {
      work();
    } catch (error) {
      if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
      outer.length = levels;
      Object.assign(scope, { fields, index, found: undefined, block: undefined });
      const fault = { file: archive.source.name, recipe: archive.recipe.id, ...place(), ...error.fault };
      this.tally(false, fault.line ?? archive.recipe.entries.line, () => fault);
    }
  }

  /** Rows whose formulas cannot disagree are counted without looking at them. */
  private isIdle(column: Column, count: number): boolean {
    if (!(column instanceof ShapeColumn)) return false;
    const { table } = column;
    const plan = this.planOf(table.shape);
    if (
      plan.plain.length + plan.nested.length + plan.checked.length > 0 ||
      (this.options.deep !== false && plan.deep.length > 0)
    )
      return false;
    if (plan.given.some((field) => field.when !== undefined)) return false;
    if (table === this.archive.entries.rows && this.archive.entries.damaged > 0) return false;
    const rows = table === this.archive.entries.rows ? Math.min(count, this.archive.entries.count) : count;
    this.total += rows * plan.given.length;
    this.agree += rows * plan.given.length;
    return true;
  }

  private planOf(shape: Shape): Plan {
    const known = this.plans.get(shape);
    if (known !== undefined) return known;
    const rule = this.archive.recipe.entries;
    const computed = shape.fields.filter(
      (field) => field.is !== undefined || field.parts.some((part) => part.is !== undefined),
    );
    const isDeep = (formula: Formula | undefined) =>
      formula !== undefined && (formula.uses.content.length > 0 || formula.uses.late || usesBytes(formula));
    const deep = computed.filter((field) => isDeep(field.is) || field.parts.some((part) => isDeep(part.is)));
    const given = computed.filter((field) => shape === rule.each.shape && agreesByItself(field, this.archive));
    const plan: Plan = {
      given,
      deep,
      plain: computed.filter((field) => !deep.includes(field) && !given.includes(field)),
      nested: shape.fields.filter((field) => (field.kind.shapes ?? []).length > 0),
      checked: shape.fields.filter((field) => field.checks.length > 0),
    };
    this.plans.set(shape, plan);
    if (plan.deep.length > 0 && this.options.deep !== true) this.isWhole = false;
    return plan;
  }

  private instance(table: Table, row: number, outerEntry: number, outerFolder: number, place: Partial<Fault>): void {
    const { archive, scope } = this;
    const { entry, folder, block, isEntryRow } = this.contextOf(table, row, outerEntry, outerFolder);
    const damage = isEntryRow && entry >= 0 ? archive.entries.damage(entry) : undefined;
    if (damage !== undefined) throw new FaultError(damage);
    const plan = this.planOf(table.shape);
    const fields = table.row(row);
    const outer = scope.fields;
    if (outer !== undefined) scope.outer.push(outer);
    const enter = () => {
      scope.fields = fields;
      this.enter(entry, folder);
      if (block !== undefined) scope.block = block;
    };
    enter();
    // Rows of the table that are no entries have only the formulas that ask nothing of an entry.
    const skip = !isEntryRow && (table !== archive.entries.rows || archive.recipe.entries.each.shape === table.shape);
    if (skip) {
      for (const field of plan.plain) if (isFree(field)) this.compare(table, row, field, place);
      for (const field of plan.checked)
        if (field.checks.every(({ that }) => asksNoEntry(that))) this.conditions(table, row, field, place);
      if (this.options.deep !== false)
        for (const field of plan.deep)
          if (isFree(field)) this.deferred.push({ table, row, field, entry, folder, place, volume: this.scope.volume });
    } else {
      for (const field of plan.given) {
        if (table.columns[field.index]!.get(row) === undefined) continue;
        this.total++;
        this.agree++;
      }
      for (const field of plan.plain) this.compare(table, row, field, place);
      for (const field of plan.checked) this.conditions(table, row, field, place);
      if (this.looksInto(entry))
        for (const field of plan.deep)
          this.deferred.push({ table, row, field, entry, folder, place, volume: this.scope.volume });
    }
    scope.block = undefined;
    for (const field of plan.nested) {
      const column = table.columns[field.index]!;
      if (!holdsRows(column, row)) continue;
      enter();
      this.value(column, row, entry, folder, place);
    }
    if (outer !== undefined) scope.outer.pop();
    scope.fields = outer;
  }

  /** Whether formulas over the bytes of an entry are asked for; those of no entry are, in any deep check. */
  private looksInto(entry: number): boolean {
    const { deep } = this.options;
    return typeof deep === 'boolean' ? deep : entry < 0 || deep.has(entry);
  }

  private contextOf(table: Table, row: number, outerEntry: number, outerFolder: number) {
    const { archive } = this;
    const { entries, folders, blockRows } = archive;
    let entry = outerEntry;
    let isEntryRow = true;
    if (table === entries.rows) {
      const own = entries.entryOfRow(row);
      if (own >= 0) entry = own;
      else isEntryRow = outerEntry >= 0;
    }
    const beside = entries.beside.indexOf(table);
    if (beside >= 0) {
      entry = this.besideEntry[beside]!.get(row) ?? -1;
      // Of rows that name their entry, some name none.
      if (archive.recipe.entries.beside[beside]!.by !== undefined) isEntryRow = entry >= 0;
    }
    let folder = outerFolder;
    if (folders !== undefined && folders.table === table) folder = folders.indexOf(row);
    let block: BlockPlace | undefined;
    if (blockRows !== undefined && blockRows.table === table) {
      const owner = this.ownerOfBlock(row);
      if (owner !== undefined) {
        ({ entry } = owner);
        block = this.blocks(owner.entry)[owner.index];
      }
    } else if (
      archive.recipe.entries.blocks !== undefined &&
      table !== entries.rows &&
      entry >= 0 &&
      tellsBlock(table.shape)
    )
      block = this.blocks(entry)[this.scope.index];
    return { entry, folder, block, isEntryRow };
  }

  private ownerOfBlock(row: number): { entry: number; index: number } | undefined {
    const { entries, blockRows } = this.archive;
    if (this.blockOwner === undefined) {
      const entry = new Int32Array(blockRows!.table.length).fill(-1);
      const index = new Int32Array(blockRows!.table.length);
      for (let i = 0; i < entries.count; i++) {
        for (const [b, { number }] of this.blocks(i).entries()) {
          const at = number < blockRows!.count ? blockRows!.row(number) : -1;
          // A block that several entries share is asked for as that of the first.
          if (at < 0 || entry[at]! >= 0) continue;
          entry[at] = i;
          index[at] = b;
        }
      }
      this.blockOwner = { entry, index };
    }
    const owner = this.blockOwner.entry[row]!;
    return owner < 0 ? undefined : { entry: owner, index: this.blockOwner.index[row]! };
  }

  private blocks(entry: number): readonly BlockPlace[] {
    if (this.lastBlocks?.entry === entry) return this.lastBlocks.blocks;
    const blocks = knownBlocks(this.archive, entry);
    this.lastBlocks = { entry, blocks };
    return blocks;
  }

  /** Makes the entry and folder of an instance known to formulas. */
  private enter(entry: number, folder: number): void {
    const { scope, archive } = this;
    scope.own = this.own;
    if (entry >= 0) {
      const known = entryScope(archive, entry, this.factsOf(entry));
      scope.entry = known.entry;
      scope.rows = known.rows;
      scope.previous = entry > 0 && this.looksBack ? this.factsOf(entry - 1) : undefined;
      scope.folder = known.folder;
    } else {
      scope.entry = undefined;
      scope.rows = NO_ROWS;
    }
    if (folder >= 0 && archive.folders !== undefined) scope.folder = archive.folders.facts(folder);
  }

  private factsOf(entry: number): EntryFacts {
    return entryFacts(this.archive, entry);
  }

  /** The recipe's own conditions, at a field that is there. */
  private conditions(table: Table, row: number, field: Field, place: Partial<Fault>): void {
    if (field.when !== undefined && table.columns[field.index]!.get(row) === undefined) return;
    for (const check of field.checks) {
      const where = () => ({ ...place, field: field.name, offset: fieldOffset(table, row, field) });
      this.guarded(
        () => this.condition(check, where),
        () => ({ ...where(), line: check.that.line }),
      );
    }
  }

  private condition({ that, say }: Condition, place: () => Partial<Fault>): void {
    this.tally(truthy(that.evaluate(this.scope)), that.line, () => ({
      code: 'must-differs',
      file: this.archive.source.name,
      recipe: this.archive.recipe.id,
      ...place(),
      line: that.line,
      what: say,
      expected: that.text,
      found: 'that it does not hold',
    }));
  }

  /** Conditions that hold for every entry. */
  entries(): void {
    const { archive } = this;
    const { entries, recipe } = archive;
    if (recipe.entries.checks.length === 0) return;
    for (let entry = 0; entry < entries.count; entry++) {
      if (entry % 4096 === 0) throwIfStopped(this.options.signal);
      if (entries.damage(entry) !== undefined) continue;
      this.enter(entry, -1);
      const place = () => ({ entry: entries.path(entry), offset: entries.rows.start(entries.row(entry)) });
      for (const check of recipe.entries.checks)
        this.guarded(
          () => this.condition(check, place),
          () => ({ ...place(), line: check.that.line }),
        );
    }
    this.enter(-1, -1);
  }

  private compare(table: Table, row: number, field: Field, place: Partial<Fault>): void {
    this.guarded(
      () => this.compareField(table, row, field, place),
      () => ({
        ...place,
        line: field.is?.line ?? field.line,
        field: field.name,
        offset: fieldOffset(table, row, field),
      }),
    );
  }

  private compareField(table: Table, row: number, field: Field, place: Partial<Fault>): void {
    const column = table.columns[field.index]!;
    const found = column.get(row);
    if (found === undefined) return;
    const { scope } = this;
    scope.here = table.markedStart(field.index, row);
    if (field.is !== undefined) {
      if (isList(found)) this.compareList(table, row, field, found, place);
      else {
        scope.found = found;
        this.tally(sameValue(found, field.is.evaluate(scope)), field.is.line, () =>
          this.fault(table, row, field, field.is!, found, place),
        );
      }
    }
    for (const part of field.parts) if (part.is !== undefined) this.comparePart(table, row, field, part, found, place);
    scope.found = undefined;
  }

  private comparePart(table: Table, row: number, field: Field, part: Part, whole: Value, place: Partial<Fault>): void {
    const found = bitsOf(whole, part.shift, part.width);
    this.scope.found = found;
    const expected = this.evaluated(part.is!);
    this.tally(sameValue(found, typeof expected === 'boolean' ? Number(expected) : expected), part.line, () => ({
      ...this.fault(table, row, field, part.is!, found, place),
      field: `${field.name}.${part.name}`,
      line: part.line,
    }));
  }

  private evaluated(formula: Formula): Value {
    return formula.evaluate(this.scope);
  }

  /** A list with a formula has it for each of its items; items of blocks see their block. */
  private compareList(table: Table, row: number, field: Field, found: Value, place: Partial<Fault>): void {
    if (!isList(found)) return;
    const { scope, archive } = this;
    const outer = scope.index;
    const entry = scope.entry?.index ?? -1;
    const blocks = archive.recipe.entries.blocks !== undefined && entry >= 0 ? this.blocks(entry) : undefined;
    for (let i = 0; i < found.length; i++) {
      scope.index = i;
      scope.block = blocks?.[i];
      const item = found.at(i);
      scope.found = item;
      this.tally(sameValue(item, field.is!.evaluate(scope)), field.is!.line, () => ({
        ...this.fault(table, row, field, field.is!, item, place),
        field: `${field.name}[${i}]`,
      }));
    }
    scope.block = undefined;
    scope.index = outer;
  }

  private tally(agrees: boolean, line: number, fault: () => Fault): void {
    this.total++;
    if (agrees) {
      this.agree++;
      return;
    }
    const count = this.differing.get(line) ?? 0;
    this.differing.set(line, count + 1);
    // One of each kind at least, however many of another there are.
    if (this.faults.length < MAX_FAULTS || count === 0) this.faults.push(fault());
  }

  private fault(table: Table, row: number, field: Field, formula: Formula, found: Value, place: Partial<Fault>): Fault {
    const { archive } = this;
    // A path that cannot be read is the reason why nothing agrees with it.
    const damage = usesPath(formula) ? archive.entries.pathDamage(this.scope.entry?.index ?? -1) : undefined;
    if (damage !== undefined) return { file: archive.source.name, recipe: archive.recipe.id, ...place, ...damage };
    let expected: Value;
    try {
      expected = formula.evaluate(this.scope);
    } catch {
      expected = undefined;
    }
    return {
      code: 'formula-differs',
      file: archive.source.name,
      recipe: archive.recipe.id,
      line: formula.line,
      ...place,
      field: table.length > 1 ? `${table.shape.name}[${row}].${field.name}` : field.name,
      offset: fieldOffset(table, row, field),
      expected: `${showValue(expected)} = ${formula.text}`,
      found: showValue(found),
    };
  }

  /** Fields over bytes: entries are read one after the other, spans of the file as they are asked for. */
  async deepFields(): Promise<void> {
    const { archive, deferred, options } = this;
    deferred.sort((a, b) => a.entry - b.entry);
    const wrapped = archive.recipe.entries.wrap !== undefined;
    let next = 0;
    for (const one of deferred.filter(({ entry }) => entry < 0)) {
      await this.deepField(one, undefined);
      next++;
    }
    for (let entry = 0; entry < archive.entries.count; entry++) {
      throwIfStopped(options.signal);
      const mine: Deferred[] = [];
      while (next < deferred.length && deferred[next]!.entry === entry) mine.push(deferred[next++]!);
      if ((mine.length === 0 && !wrapped) || !this.looksInto(entry) || archive.entries.isDeleted(entry)) continue;
      let content: ReadonlyMap<string, Value> = new Map();
      try {
        const opened = await openEntry(archive, entry);
        content = await hashesWanted(
          archive,
          opened,
          mine.map(({ field }) => field),
          options.signal,
        );
        if (opened.wrap !== undefined) await this.wrapFields(entry, opened, content);
        this.own = opened.wrap?.fields;
        for (const one of mine) await this.deepField(one, content);
        this.own = undefined;
      } catch (error) {
        if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
        const fault = {
          file: archive.source.name,
          recipe: archive.recipe.id,
          ...error.fault,
          entry: archive.entries.path(entry),
        };
        this.tally(false, archive.recipe.entries.line, () => fault);
        for (let k = 1; k < mine.length; k++) this.total++;
      }
      options.progress?.(entry + 1);
    }
  }

  private async deepField(one: Deferred, content: ReadonlyMap<string, Value> | undefined): Promise<void> {
    const { scope, archive } = this;
    const enter = () => {
      scope.fields = one.table.row(one.row);
      this.enter(one.entry, one.folder);
      scope.volume = one.volume;
      if (content !== undefined && scope.entry !== undefined) scope.entry = withContent(scope.entry, content);
      scope.found = one.table.columns[one.field.index]!.get(one.row);
      scope.here = one.table.markedStart(one.field.index, one.row);
    };
    const ask = () => {
      enter();
      try {
        for (const formula of formulasIn(one.field)) formula.evaluate(scope);
      } catch (error) {
        // What cannot be computed is reported with its place when it is compared.
        if (!(error instanceof FaultError)) throw error;
      }
    };
    if (formulasIn(one.field).some((formula) => formula.uses.late)) {
      do ask();
      while (await archive.late.answer((request: SpanRequest) => spanBytes(archive, request)));
    } else enter();
    scope.volume = one.volume;
    this.compare(one.table, one.row, one.field, one.place);
  }

  /** Fields of the shape around the entry's bytes. */
  private async wrapFields(entry: number, opened: OpenedEntry, content: ReadonlyMap<string, Value>): Promise<void> {
    const { archive } = this;
    const { wrap } = opened;
    const { table, fields } = wrap!;
    const late = new LateHashes();
    const facts: FileFacts = {
      ...archive.facts,
      spanHash: (hasher, place, from, to, blank) => late.get({ hasher, ...place, from, to, blank }),
    };
    const { scope } = this;
    const outer = scope.file;
    const stored = storedSource(archive, entry);
    const place = { entry: archive.entries.path(entry), within: 'entry' };
    this.lastBlocks = { entry, blocks: opened.blocks ?? [] };
    scope.file = facts;
    const row = (fields as RowCursor).row;
    const enter = () => {
      scope.fields = fields;
      this.own = fields;
      this.enter(entry, -1);
      // A wrap that stores the sizes of its blocks is the only place that knows how many there are.
      scope.entry = factsWith(withContent(scope.entry!, content), { blockCount: opened.blocks?.length ?? 0 });
    };
    for (const field of table.shape.fields) {
      if (field.is === undefined && field.parts.every((part) => part.is === undefined)) continue;
      do {
        enter();
        for (const formula of formulasIn(field)) if (!isList(fields.get(field.index))) formula.evaluate(scope);
      } while (await late.answer(({ from, to }) => readChunks(stored, from, to - from)));
      enter();
      this.compare(table, row, field, place);
    }
    this.own = undefined;
    scope.own = undefined;
    scope.file = outer;
  }
}
