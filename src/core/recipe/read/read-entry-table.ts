/** Works out the entries of an archive from its rows: which rows they are, where they lie, how long they are. */
import { FaultError, FormatError } from '../../faults';
import { isNumeric, isStretch, scopeOf, truthy, type EntryFacts, type Scope, type Value } from '../formula/value';
import { showValue, wholeNumber } from '../formula/show-value';
import type { EntriesRule, Formula, Method } from '../model';
import { blocksOf } from './blocks';
import { EntryRoom } from './entry-room';
import type { EntrySetting, Wraps } from './entry-setting';
import { asksOfEntry, tableOf, type EntryColumns, type EntryTable } from './entry-table';
import { onlyPath } from './path-hashes';
import type { BoundRows } from './rows';
import type { RowCursor } from './table';
import { volumeNamed, volumePlace } from './volumes';

/**
 * Works out where every entry lies. Places are not checked against the file here: an archive with one bad row still
 * opens, and reading that entry says what is wrong.
 *
 * @throws FaultError when there is no row that is not damaged, or each entry begins where the one before ends
 */
export async function readEntryTable(setting: EntrySetting): Promise<EntryTable> {
  const reader = new EntryReader(setting);
  reader.chooseRows();
  await reader.places();
  return tableOf(reader);
}

/** Faults that are no fault of one row. */
const NOT_OF_A_ROW: ReadonlySet<string> = new Set([
  'stopped',
  'key-missing',
  'key-wrong',
  'recipe-circular',
  'recipe-invalid',
]);

/** One function for all: a million entries would make a million of them. */
const noContent = (): undefined => undefined;

class EntryReader implements EntryColumns {
  readonly rule: EntriesRule;
  rowsOf = new Float64Array(0);
  listIndex = new Float64Array(0);
  count = 0;
  ats = new Float64Array(0);
  storeds = new Float64Array(0);
  sizes = new Float64Array(0);
  volumes = new Int32Array(0);
  folders: Int32Array | undefined;
  methods: Method[] = [];
  deleted: Set<number> | undefined;
  readonly damage = new Map<number, FaultError>();
  /** Volumes that are named and not there. */
  readonly missing = new Map<number, { set: string; number: number }>();
  wraps: Wraps | undefined;
  private room: EntryRoom | undefined;
  private readonly row: RowCursor;
  /** Stands for the entry where no formula looks at it. */
  readonly blank: EntryFacts;
  private readonly needsEntry: boolean;
  private readonly besideRows: RowCursor[];
  private readonly scope: Scope;

  constructor(readonly setting: EntrySetting) {
    this.rule = setting.recipe.entries;
    this.scope = scopeOf(setting.facts);
    this.row = setting.bound.table.row(0);
    this.besideRows = setting.beside.map(({ table }) => table.row(0));
    this.scope.rows = [this.row, ...this.besideRows];
    this.needsEntry = looksAtEntry(setting.recipe.entries);
    this.blank = { ...onlyPath(''), content: noContent };
  }

  /** Rows that are entries, in order. */
  chooseRows(): void {
    const { bound } = this.setting;
    const { only } = this.rule;
    const rows = new Float64Array(bound.count);
    const list = new Float64Array(bound.count);
    let count = 0;
    for (let i = 0; i < bound.count; i++) {
      const row = bound.row(i);
      if (only !== undefined) {
        this.look(row, i);
        try {
          if (!truthy(only.evaluate(this.scope))) continue;
        } catch (error) {
          this.note(error, count, row);
        }
      }
      rows[count] = row;
      list[count++] = i;
    }
    this.rowsOf = rows.subarray(0, count);
    this.listIndex = list.subarray(0, count);
    this.count = count;
    this.noteBadRows(this.rowsOf);
    for (const one of this.setting.beside) this.noteBadRows(this.listIndex, one);
    for (const [k, { by, name }] of this.rule.beside.entries())
      if (by !== undefined) this.noteUnnamed(this.setting.beside[k]!, by, name);
  }

  /** Entries to which no row of a table beside belongs, where its rows say by a number which is theirs. */
  private noteUnnamed(beside: BoundRows, by: Formula, name: string): void {
    for (let entry = 0; entry < this.count; entry++) {
      if (beside.row(this.listIndex[entry]!) >= 0) continue;
      const fault = new FormatError({
        code: 'must-differs',
        what: `no row of ${name} belongs to this entry`,
        expected: `${by.text} of ${this.listIndex[entry]!}`,
        found: 'none',
        line: by.line,
      });
      this.note(fault, entry, this.rowsOf[entry]!);
    }
  }

  /**
   * Rows with a field that is not what it must be.
   *
   * @param rows for each entry its row, or its place in a list beside
   * @throws FaultError when it is not one of an entry
   */
  private noteBadRows(rows: Float64Array, beside?: BoundRows): void {
    const { damage } = (beside ?? this.setting.bound).table;
    if (damage.size === 0) return;
    const left = new Map(damage);
    for (let i = 0; i < rows.length; i++) {
      const place = rows[i]!;
      const row = beside === undefined ? place : place < beside.count ? beside.row(place) : -1;
      const error = left.get(row);
      if (error === undefined) continue;
      if (!this.damage.has(i)) this.damage.set(i, this.placed(error, this.rowsOf[i]!));
      left.delete(row);
    }
    for (const [row, error] of left) throw beside === undefined ? this.placed(error, row) : error;
  }

  async places(): Promise<void> {
    const { rule, count, scope } = this;
    this.ats = new Float64Array(count);
    this.storeds = new Float64Array(count).fill(NaN);
    this.sizes = new Float64Array(count).fill(NaN);
    this.volumes = new Int32Array(count);
    this.methods = rule.methods.length > 0 ? new Array<Method>(count) : [];
    this.readFolders();
    const running = rule.at?.uses.entry.has('previous') === true;
    for (let i = 0; i < count; i++) {
      const bad = this.damage.get(i);
      let at = NaN;
      try {
        // Those that begin at the end of a damaged one are good as long as that end is known.
        if (bad !== undefined && !running) throw bad;
        this.enter(i, running);
        this.readPlace(i);
        at = this.ats[i]!;
        if (running) this.readSizes(i);
      } catch (error) {
        this.note(bad ?? error, i);
        // What is known of it, those behind it may need.
        if (running) this.ats[i] = at;
      }
    }
    if (running) for (const [i, error] of this.damage) this.note(error, i);
    const room = new EntryRoom(this.setting, this.ats, this.volumes, usesRoom(rule));
    if (room.isSorted) this.room = room;
    if (this.setting.wraps !== undefined) {
      this.wraps = await this.setting.wraps({
        count,
        at: (i) => this.ats[i]!,
        volume: (i) => this.volumes[i]!,
        room: (i) => room.toNext(i),
        scope: (i) => {
          this.enter(i, false);
          return scope;
        },
      });
    }
    if (!running) {
      const needsPrevious = [rule.stored, rule.size].some((formula) => formula?.uses.entry.has('previous') === true);
      for (let i = 0; i < count; i++) {
        try {
          const unread = this.damage.get(i) ?? this.wraps?.fault(i);
          if (unread !== undefined) throw unread;
          this.enter(i, needsPrevious);
          this.readSizes(i);
        } catch (error) {
          this.note(error, i);
        }
      }
    }
    scope.entry = undefined;
    // With no good row at all it is the recipe that is wrong, or the key.
    const [first] = this.damage.values();
    if (first !== undefined && this.damage.size === count) throw first;
  }

  /** One bad row costs one entry. @throws what is no fault of the row */
  private note(error: unknown, entry: number, row = this.rowsOf[entry]!): void {
    if (!(error instanceof FaultError) || NOT_OF_A_ROW.has(error.fault.code)) throw error;
    if (!this.damage.has(entry)) this.damage.set(entry, this.placed(error, row));
    this.ats[entry] = 0;
    this.storeds[entry] = NaN;
    this.sizes[entry] = NaN;
  }

  placed(error: FaultError, row: number): FaultError {
    const { recipe, bound } = this.setting;
    const region = recipe.regions[this.rule.each.region]!;
    const place = { recipe: recipe.id, line: this.rule.line, region: region.name, offset: bound.table.start(row) };
    return error.with({ ...place, ...(region.through.length > 0 ? { within: region.name } : {}) });
  }

  private look(row: number, listIndex: number): void {
    this.row.row = row;
    this.scope.index = listIndex;
    for (const [k, bound] of this.setting.beside.entries())
      this.besideRows[k]!.row = listIndex < bound.count ? bound.row(listIndex) : -1;
  }

  private enter(entry: number, previous: boolean): void {
    const { scope } = this;
    this.look(this.rowsOf[entry]!, this.listIndex[entry]!);
    scope.entry = this.needsEntry ? this.bare(entry) : this.blank;
    scope.previous = previous && entry > 0 ? this.bare(entry - 1) : undefined;
    const folder = this.folders?.[entry] ?? -1;
    scope.folder = folder >= 0 ? this.setting.folders!.facts(folder) : undefined;
    scope.own = this.wraps?.fields(entry);
    if (this.room !== undefined) scope.room = this.room.of(entry);
  }

  /** What is known of an entry while the others are still being found. */
  bare(entry: number): EntryFacts {
    // One object a row would be too many: the getters read the columns.
    const { ats, storeds, sizes, volumes, setting } = this;
    const set = setting.volumes[volumes[entry]!];
    return {
      index: entry,
      path: '',
      at: ats[entry]!,
      stored: storeds[entry]!,
      size: sizes[entry]!,
      method: undefined,
      volume: set?.number ?? this.missing.get(entry)?.number ?? 0,
      volumeSet: set?.set.name ?? this.missing.get(entry)?.set ?? '',
      time: undefined,
      deleted: false,
      hash: undefined,
      id: undefined,
      folderIndex: this.folders?.[entry] ?? -1,
      firstBlock: 0,
      blockCount: 0,
      content: noContent,
    };
  }

  private readFolders(): void {
    const { folders, bound } = this.setting;
    if (folders === undefined) return;
    this.folders = new Int32Array(this.count).fill(-1);
    for (let i = 0; i < this.count; i++) {
      let index = -1;
      if (this.rule.folder !== undefined) {
        this.look(this.rowsOf[i]!, this.listIndex[i]!);
        const value = this.rule.folder.evaluate(this.scope);
        index = isNumeric(value) && value >= 0 && value < folders.count ? Number(value) : -1;
      } else if (bound.folderRow !== undefined) index = folders.indexOf(bound.folderRow(this.listIndex[i]!));
      this.folders[i] = index;
      if (index < 0) continue;
      if (folders.counts[index] === 0) folders.firsts[index] = i;
      folders.counts[index]!++;
    }
  }

  private readPlace(entry: number): void {
    const { rule, scope } = this;
    if (rule.volume === undefined) this.volumes[entry] = this.defaultVolume();
    else {
      const name = rule.volume.evaluate(scope);
      this.volumes[entry] = typeof name === 'string' ? volumePlace(this.setting.volumes, name) : -1;
      if (this.volumes[entry]! < 0 && typeof name === 'string') this.missing.set(entry, volumeNamed(name));
    }
    scope.volume = Math.max(0, this.volumes[entry]!);
    const data = rule.data?.evaluate(scope);
    if (isStretch(data)) {
      this.ats[entry] = data.at;
      this.storeds[entry] = data.length;
    } else if (rule.at !== undefined) {
      this.ats[entry] = this.whole(rule.at.evaluate(scope), 'the offset of an entry', entry);
    } else {
      this.storeds[entry] = 0;
    }
  }

  private defaultVolume(): number {
    const [region] = this.setting.recipe.dataRegions;
    const { volumes, recipe } = this.setting;
    if (region === undefined)
      return Math.max(
        0,
        volumes.findIndex((one) => one.set.name === recipe.regions[recipe.entries.each.region]!.volume),
      );
    return volumes.findIndex((one) => one.set.name === region.volume);
  }

  private readSizes(entry: number): void {
    const { rule, scope } = this;
    if (rule.stored !== undefined)
      this.storeds[entry] = this.whole(rule.stored.evaluate(scope), 'the stored size of an entry', entry);
    else if (this.wraps !== undefined) this.storeds[entry] = this.wraps.stored(entry);
    (scope.entry as { stored: number }).stored = this.storeds[entry]!;
    if (rule.deleted !== undefined && truthy(rule.deleted.evaluate(scope))) (this.deleted ??= new Set()).add(entry);
    const method = rule.methodOf(scope);
    if (this.methods.length > 0) this.methods[entry] = method;
    if (rule.size !== undefined)
      this.sizes[entry] = this.whole(rule.size.evaluate(scope), 'the size of an entry', entry);
    else if (rule.wrap === undefined && rule.blocks === undefined && isRaw(rule, method))
      this.sizes[entry] = this.storeds[entry]!;
    (scope.entry as { size: number }).size = this.sizes[entry]!;
    if (rule.stored === undefined) this.storeds[entry] = this.blocksEnd(entry) ?? this.storeds[entry]!;
  }

  /** Stored bytes as the blocks have them: what lies behind the last one is no part of the entry. */
  private blocksEnd(entry: number): number | undefined {
    const { rule, scope, wraps } = this;
    const start = wraps === undefined ? 0 : wraps.restAt(entry);
    if (rule.blocks === undefined || rule.blocks.each !== undefined || start === undefined) return undefined;
    const last = blocksOf(rule.blocks, this.sizes[entry]!, scope, () => {}).at(-1);
    return start + (last === undefined ? 0 : last.at + last.stored);
  }

  private whole(value: Value, what: string, entry: number): number {
    try {
      return wholeNumber(value, what);
    } catch (error) {
      throw error instanceof FormatError
        ? error.with({ offset: this.setting.bound.table.start(this.rowsOf[entry]!), found: showValue(value) })
        : error;
    }
  }
}

/** True when places or packing are worked out from facts of the entry itself. */
function looksAtEntry(rule: EntriesRule): boolean {
  const formulas = [rule.volume, rule.at, rule.stored, rule.size, rule.deleted, rule.data, rule.only];
  const steps = rule.methods.flatMap((method) => rule.stepsOf(method) ?? []).map(({ when }) => when);
  return [...formulas, ...steps].some(asksOfEntry);
}

function usesRoom(rule: EntriesRule): boolean {
  return (
    rule.wrap !== undefined || [rule.stored, rule.size].some((formula) => formula?.uses.entry.has('room') === true)
  );
}

export function isRaw(rule: EntriesRule, method: Method): boolean {
  return rule.stepsOf(method)?.length === 0;
}
