/** Instances of shapes in the making: each field computed by its formula, or as it was found. */
import { FormatError } from '../../../faults';
import { withBits } from '../../formula/bits';
import {
  isFields,
  isList,
  sameValue,
  truthy,
  type Fields,
  type ListValue,
  type Scope,
  type Stretch,
  type Value,
} from '../../formula/value';
import { wholeNumber } from '../../formula/show-value';
import { EMPTY_LIST } from '../../kinds/list-kind';
import type { Field, FieldKind, Formula, FoundPart, Part, Shape } from '../../model';
import { itemsOf, ShapeColumn } from '../../read/columns';
import type { RowCursor } from '../../read/table';
import { namedBy } from '../edits/companions';
import type { Draft } from '../model/draft';
import type { FoundRow, Identity } from '../model/identity';
import type { NewBytes } from '../model/new-bytes';
import { keyText } from '../model/places';
import type { Instances } from './instances';
import { isSteady } from './steady';

/** One instance of a shape in the new file. */
export class DraftFields implements Fields {
  private own: Identity;
  /** Values by the numbers of their fields, and the round in which they were worked out. */
  private memo: Value[] | undefined;
  private memoRound = -1;
  /** The field whose value in a patch is being worked out. */
  private patched = -1;

  constructor(
    private readonly draft: Draft,
    private readonly instances: Instances,
    readonly shape: Shape,
    identity: Identity,
    /** The packed bytes of the entry, in the shape around them. */
    private readonly packed?: Stretch,
  ) {
    this.own = identity;
  }

  get identity(): Identity {
    return this.own;
  }
  /** It may be asked for before its list is known, and items before it may come or go. */
  moveTo({ index, parent, isTop }: Identity): void {
    if (this.own.index === index && (parent === undefined || this.own.parent === parent)) return;
    this.own = { ...this.own, index, ...(parent === undefined ? {} : { parent, isTop: isTop ?? false }) };
    this.aroundInner = undefined;
    this.ownInner = undefined;
  }

  /** The value as formulas see it. */
  get(index: number): Value {
    return this.value(index, false);
  }
  /**
   * The value as it is written: what stays keeps the very bytes it has. Asked for only when the field's `when` holds.
   */
  written(index: number): Value {
    return this.value(index, true);
  }

  private value(index: number, asFound: boolean): Value {
    const field = this.shape.fields[index]!;
    const { base } = this.own;
    if (base !== undefined && field.isPlain && (asFound || field.when === undefined || this.fresh === undefined))
      return this.keptValue(index, base, asFound);
    const { fresh } = this;
    // Fields of new and changed rows may come and go; others are there or not as they were.
    const mayAppear = base === undefined || fresh !== undefined;
    if (!asFound && field.when !== undefined && mayAppear && !this.isThere(field)) return undefined;
    const list = this.listOf(field);
    if (list !== undefined) return list;
    if (field.is !== undefined && this.mustCompute(field.is, fresh)) {
      if (this.isAbsent(index)) return undefined;
      return this.isListField(field) ? this.computedList(field, field.is) : this.computed(field, field.is, asFound);
    }
    const isOther = base !== undefined && fresh !== undefined && !fresh.onlyMoved;
    if (field.patch !== undefined && this.draft.setting.isPatch && this.patched !== index)
      return this.patchValue(field, field.patch);
    if (field.changed !== undefined && isOther) return this.evaluated(field.changed);
    const value = this.plain(field, index, asFound, fresh);
    return field.parts.length === 0 || value === undefined ? value : this.withParts(field, value);
  }

  startOf(index: number): number {
    return this.draft.places.start(this.own.key, index);
  }
  lengthOf(index: number): number {
    return this.draft.places.length(this.own.key, index);
  }
  note(index: number, start: number, length: number): void {
    this.draft.places.note(this.own.key, index, start, length);
  }
  foundAt(index: number): FoundPart | undefined {
    const { base } = this.own;
    if (base === undefined || base.table.columns[index]!.kept(base.row) === undefined) return undefined;
    return { at: base.table.markedStart(index, base.row), length: base.table.markedLength(index, base.row) };
  }
  neighbour(by: number): Fields | undefined {
    const { base } = this.own;
    return base === undefined ? undefined : base.table.row(base.row).neighbour(by);
  }

  /** Whether a field is there in the new file. */
  private isThere(field: Field): boolean {
    if (field.when === undefined) return true;
    return truthy(this.evaluated(field.when));
  }

  /** The new bytes of the entry it belongs to. */
  private get fresh(): NewBytes | undefined {
    const { out } = this.own;
    return out === undefined || out < 0 ? undefined : this.draft.entries.fresh(out);
  }

  private isListField(field: Field): boolean {
    return field.kind.type.kind === 'list';
  }

  /** A field that was left out stays out. */
  private isAbsent(index: number): boolean {
    const { base } = this.own;
    return (
      base !== undefined &&
      base.table.columns[index]!.kept(base.row) === undefined &&
      this.shape.fields[index]!.when === undefined
    );
  }

  /** Unchanged entries keep what does not follow the layout; everything else is worked out. */
  private mustCompute(formula: Formula, fresh: NewBytes | undefined): boolean {
    const { base, out, folder } = this.own;
    if (base === undefined) return true;
    const { uses } = formula;
    // A row that is no entry keeps what only an entry could tell.
    if (out === undefined && (uses.entry.size > 0 || uses.content.length > 0) && folder === undefined) return false;
    const changed = fresh !== undefined && !fresh.onlyMoved;
    // Hashes over the bytes of an unchanged entry, and what lies around these, stay with them.
    const overContent = uses.content.length > 0;
    const overData = overContent && uses.content.some(({ which }) => which === 'data');
    const overStored = overContent || uses.entry.has('own');
    if (!changed && out !== undefined && (overData || (overStored && fresh === undefined))) return false;
    // Its stored bytes are others where they were locked again for another place.
    const resealed = overStored && fresh !== undefined;
    return out === undefined || changed || resealed || !isSteady(formula, this.shape);
  }

  private plain(field: Field, index: number, asFound: boolean, fresh: NewBytes | undefined): Value {
    const { base, out } = this.own;
    const holdsData =
      (this.packed !== undefined || (fresh !== undefined && this.draft.isInRow(out!))) && this.isData(field);
    if (holdsData && this.packed !== undefined) return this.packed;
    if (holdsData && fresh !== undefined) return { stretch: true, at: 0, length: fresh.stored.size, out } as Stretch;
    // What has gone elsewhere leaves nothing behind.
    if (out !== undefined && this.draft.hasLeftRow(out) && this.isData(field))
      return { stretch: true, at: 0, length: 0 } satisfies Stretch;
    if (base !== undefined) return this.kept(index, base, asFound);
    const { template } = this.own;
    if (template !== undefined) return this.followed(field, template, asFound);
    const made = this.madeValues(fresh);
    const inside = keyText(this.own.key).split('/').slice(1).join('/');
    const key = `${inside}:${this.shape.name}.${index}`;
    if (made.has(key)) return made.get(key);
    const value = this.initial(field);
    // Shapes, lists and pools belong to this draft, and not to the entry.
    if (typeof value !== 'object' || value instanceof Uint8Array) made.set(key, value);
    return value;
  }

  /**
   * What a new instance was given once, kept with its entry or for the whole file: what was drawn at random is the same
   * whenever it is asked for.
   */
  private madeValues(fresh: NewBytes | undefined): Map<string, Value> {
    if (fresh !== undefined) return fresh.made;
    const { store } = this.draft.setting;
    const name = keyText(this.own.key);
    let made = store.get(name);
    if (made === undefined) store.set(name, (made = new Map()));
    return made;
  }

  private isData(field: Field): boolean {
    if (field.kind.chosen === undefined) return field.kind.type.kind === 'data';
    return this.chosenKind(field.kind).type.kind === 'data';
  }

  private chosenKind(kind: FieldKind): FieldKind {
    if (kind.chosen === undefined) return kind;
    return this.within({ evaluate: kind.chosen });
  }

  /** What was found, or what someone typed in its place. */
  private keptValue(index: number, { table, row }: FoundRow, asFound: boolean): Value {
    const column = table.columns[index]!;
    const { fieldValues } = this.draft.setting;
    const edited = fieldValues.size === 0 ? undefined : fieldValues.get(column)?.get(row);
    return edited ?? (asFound ? column.kept(row) : column.get(row));
  }

  private kept(index: number, base: FoundRow, asFound: boolean): Value {
    const column = base.table.columns[index]!;
    const edited = this.draft.setting.fieldValues.get(column)?.get(base.row);
    if (edited !== undefined) return edited;
    const value = column.kept(base.row);
    if (value === undefined || value instanceof Uint8Array) {
      if (this.shape.fields[index]!.kind.type.kind === 'pool') return this.pool(index, value);
      return asFound ? value : column.get(base.row);
    }
    if (isFields(value)) return this.instances.inside(value as RowCursor, this.inner());
    if (!isList(value)) return asFound ? value : column.get(base.row);
    const items = itemsOf(column, base.row);
    if (items?.column instanceof ShapeColumn) {
      const list = value as ListValue;
      return {
        length: list.length,
        at: (i: number) => this.instances.inside(list.at(i) as RowCursor, this.inner(), i),
      };
    }
    return asFound ? value : column.get(base.row);
  }

  /** What an instance inside this one has of it. */
  private inner(): Identity {
    return (this.ownInner ??= { ...this.own, parent: this, isTop: false });
  }
  private ownInner: Identity | undefined;

  private pool(index: number, found: Value): Value {
    if (!(found instanceof Uint8Array)) return found;
    return this.draft.pools.of(`${this.shape.name}.${index}`, this.shape.fields[index]!.kind, found);
  }

  /** Lists whose items are entries, folders or blocks are made again. */
  private listOf(field: Field): ListValue | undefined {
    const { kind } = field.kind.type;
    if (kind !== 'list' && kind !== 'any') return undefined;
    return this.instances.listOf(this, field);
  }

  private initial(field: Field): Value {
    const { setting } = this.draft;
    if (field.fresh === 'neighbour') return this.instances.neighbourValue(field);
    // Of several values that it may have, the recipe may choose another than the last.
    if (field.fresh === undefined && field.must?.only !== undefined) return field.must.only;
    const first = field.fresh ?? field.changed;
    if (first !== undefined) return this.firstValue(field, first);
    const made = this.initialOf(field, this.chosenKind(field.kind));
    if (made !== undefined) return made;
    if (field.parts.length > 0) return 0;
    if (field.when !== undefined || field.kind.minSize === 0) return undefined;
    throw new FormatError({
      code: 'cannot-add',
      recipe: setting.recipe.id,
      line: field.line,
      field: field.name,
      what:
        this.own.out === undefined ? 'this recipe cannot make a file from nothing' : 'this recipe cannot add entries',
      expected: '`is`, `must` or `new`',
      found: 'none of them',
      hint: 'Say in the recipe what the field is in a new row, such as new: 0.',
    });
  }

  /** What a row near that of a new entry takes over from the like of it; the field that names the entry takes its name. */
  private followed(field: Field, { table, row }: FoundRow, asFound: boolean): Value {
    const named = namedBy(this.draft.setting.recipe);
    if (named !== undefined && named.field === field.name) {
      const path = this.draft.path(this.own.out!);
      return named.lastPart ? path.slice(path.lastIndexOf('/') + 1) : path;
    }
    const column = table.columns[field.index]!;
    const value = asFound ? column.kept(row) : column.get(row);
    return isFields(value) ? this.instances.inside(value as RowCursor, { ...this.inner(), out: undefined }) : value;
  }

  /** The value in a patch. Its formula may name the field, and gets what the archive has there. */
  private patchValue({ index }: Field, formula: Formula): Value {
    const outer = this.patched;
    this.patched = index;
    try {
      return this.evaluated(formula);
    } finally {
      this.patched = outer;
    }
  }

  /** A first value may follow from those of other fields, and must not need itself. */
  private firstValue(field: Field, fresh: Formula): Value {
    const job = { owner: this, field, work: () => this.get(field.index) };
    return this.draft.graph.once(job, () => this.evaluated(fresh), false);
  }

  private initialOf(field: Field, kind: FieldKind): Value {
    switch (kind.type.kind) {
      case 'shape':
        return this.instances.freshInside(kind.type.shape, field, this.inner());
      case 'list':
        return EMPTY_LIST;
      case 'pool':
        return this.draft.pools.of(`${this.shape.name}.${field.index}`, kind, new Uint8Array(0));
      case 'data':
        return { stretch: true, at: 0, length: 0 } as Stretch;
      default:
        return undefined;
    }
  }

  /** A field's value by its formula: worked out once in a round, however many ask. */
  private computed(field: Field, formula: Formula, asFound: boolean): Value {
    const { base } = this.own;
    // A property of the entry needs no other field, and is as quickly asked for again.
    const value =
      formula.entryProperty !== undefined
        ? this.evaluated(formula)
        : this.remembered(field, () => this.evaluated(formula, this.foundValue(field)));
    // A text that means the same keeps the bytes it has, such as what is behind its end.
    if (asFound && base !== undefined) {
      const found = this.foundValue(field);
      if (found !== undefined && sameValue(value, found)) return base.table.columns[field.index]!.kept(base.row);
    }
    return value;
  }

  private remembered(field: Field, work: () => Value): Value {
    const { graph } = this.draft;
    const { base } = this.own;
    // What other instances ask for outlives this one, for rows that were found are made again for whoever looks.
    if (field.asked && base !== undefined)
      return graph.shared(base.table, base.row, field, work, () => this.get(field.index));
    if (this.memo === undefined || this.memoRound !== graph.round) this.memo = [];
    this.memoRound = graph.round;
    const { memo } = this;
    if (field.index in memo) return memo[field.index];
    const value = graph.once({ owner: this, field, work: () => this.get(field.index) }, work, base === undefined);
    memo[field.index] = value;
    return value;
  }

  /** How many items a list of the new file has whose values follow a formula each. */
  private itemCount(field: Field, found: Value): number {
    const { listCount } = field.kind;
    const { out } = this.own;
    const isOfEntry = out !== undefined && out >= 0 && this.draft.setting.recipe.entries.blocks !== undefined;
    if (isOfEntry) return 0;
    if (listCount !== undefined) return wholeNumber(this.evaluated(listCount), `the count of ${field.name}`);
    return isList(found) ? found.length : 0;
  }

  private computedList(field: Field, formula: Formula): ListValue {
    const { out, base } = this.own;
    const blocks = out === undefined || out < 0 ? [] : this.draft.blocks(out);
    const found = base === undefined ? undefined : base.table.columns[field.index]!.get(base.row);
    const length = blocks.length > 0 ? blocks.length : this.itemCount(field, found);
    return {
      length,
      at: (i) => {
        const { scope } = this.draft;
        const outer = { block: scope.block, index: scope.index };
        scope.block = out === undefined || out < 0 ? undefined : this.draft.blockOf(out, i);
        scope.index = i;
        try {
          return this.evaluated(formula, isList(found) && i < found.length ? found.at(i) : undefined, i);
        } finally {
          Object.assign(scope, outer);
        }
      },
    };
  }

  private withParts(field: Field, whole: Value): Value {
    const { base } = this.own;
    let value = whole;
    for (const part of field.parts) {
      let bits: Value;
      if (part.is !== undefined && this.mustCompute(part.is, this.fresh)) bits = this.evaluated(part.is);
      else if (part.patch !== undefined && this.draft.setting.isPatch) bits = this.evaluated(part.patch);
      else if (base !== undefined) continue;
      else if (part.fresh !== undefined) bits = this.evaluated(part.fresh);
      else if (part.must?.only !== undefined) bits = part.must.only;
      else continue;
      value = withBits(value, part.shift, part.width, this.fitting(field, part, bits));
    }
    return value;
  }

  /** @throws FormatError `layout-impossible` when a value does not fit its bits */
  private fitting(field: Field, part: Part, bits: Value): Value {
    const number = typeof bits === 'boolean' ? Number(bits) : (bits ?? 0);
    const fits =
      (typeof number === 'number' || typeof number === 'bigint') &&
      number >= 0 &&
      BigInt(Math.trunc(Number(number))) < 1n << BigInt(part.width);
    if (fits) return number;
    const { scope } = this.draft;
    if (scope.unfitCount !== undefined) {
      scope.unfitCount++;
      return 0;
    }
    throw new FormatError({
      code: 'layout-impossible',
      recipe: this.draft.setting.recipe.id,
      line: part.line,
      field: `${field.name}.${part.name}`,
      what: 'the value does not fit its bits',
      expected: `0 to ${(1n << BigInt(part.width)) - 1n}`,
      found: String(bits),
    });
  }

  private foundValue(field: Field): Value {
    const { base } = this.own;
    if (base === undefined) return undefined;
    try {
      return base.table.columns[field.index]!.get(base.row);
    } catch {
      // Bytes that are no text: whatever the formula gives replaces them.
      return undefined;
    }
  }

  /** Evaluates in a scope in which formulas see this instance and what it belongs to. */
  private evaluated(formula: Formula, found: Value = undefined, ownIndex?: number): Value {
    return this.within(formula, found, ownIndex);
  }

  private within<T>(work: { evaluate(scope: Scope): T }, itsValue?: Value, ownIndex?: number): T {
    const { scope } = this.draft;
    const { own, fields, outer, entry, rows, previous, folder, block, found, index, volume } = scope;
    try {
      this.enter(scope);
      scope.found = itsValue;
      if (ownIndex !== undefined) scope.index = ownIndex;
      return work.evaluate(scope);
    } finally {
      // One by one: this runs for every formula of every row, where Object.assign takes several times as long.
      scope.own = own;
      scope.fields = fields;
      scope.outer = outer;
      scope.entry = entry;
      scope.rows = rows;
      scope.previous = previous;
      scope.folder = folder;
      scope.block = block;
      scope.found = found;
      scope.index = index;
      scope.volume = volume;
    }
  }

  /** The instances around it, the innermost last; undefined where they are not known. */
  private outer(): Fields[] | undefined {
    const { parent, isTop } = this.own;
    if (parent === undefined) return isTop === true ? [] : undefined;
    return parent instanceof DraftFields ? parent.outerOfInner() : [parent];
  }
  /** The same for every instance inside this one. */
  private outerOfInner(): Fields[] {
    return (this.aroundInner ??= [...(this.outer() ?? []), this]);
  }
  private aroundInner: Fields[] | undefined;

  private enter(scope: Scope): void {
    const { draft } = this;
    const { out, folder, block, index, region } = this.own;
    scope.fields = this;
    scope.outer = this.outer() ?? scope.outer;
    scope.index = index;
    if (region >= 0) scope.volume = draft.volumeOfRegion(region);
    if (out !== undefined && out >= 0) {
      scope.entry = draft.factsOf(out);
      scope.rows = this.instances.rowsOf(out, this);
      scope.own = this.shape === draft.setting.recipe.entries.wrap ? this : draft.entries.fresh(out)?.wrap;
      const before = draft.usesPrevious ? draft.order.before(out) : undefined;
      scope.previous = before === undefined ? undefined : draft.entryFacts(before);
      if (block !== undefined) scope.block = draft.blockOf(out, block);
    } else if (out === undefined && this.own.base === undefined) {
      // A new row that holds no entry sees none, whatever asked for it, but for the one it is made for.
      const { brings } = this.own;
      scope.entry = brings?.entry === undefined ? undefined : draft.factsOf(brings.entry);
      if (brings?.folder !== undefined) scope.folder = draft.folderFacts(brings.folder);
    }
    if (folder !== undefined && folder >= 0) scope.folder = draft.folderFacts(folder);
  }
}
