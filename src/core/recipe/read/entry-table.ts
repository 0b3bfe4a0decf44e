/** All entries of an archive as columns, in the order of their rows. */
import { FaultError, FormatError, type Fault } from '../../faults';
import {
  isNumeric,
  isStretch,
  scopeOf,
  showValue,
  truthy,
  wholeNumber,
  type EntryFacts,
  type Fields,
  type FileFacts,
  type Scope,
  type Value,
} from '../formula/value';
import type { EntriesRule, Formula, Method, Recipe } from '../model';
import { TableEntry } from './entry-facts';
import type { FolderTable } from './folder-table';
import { linkedPath } from './linked-path';
import { onlyPath, type PathHashes } from './path-hashes';
import { blocksOf } from './blocks';
import type { BoundRows } from './rows';
import type { RowCursor, Table } from './table';
import { volumeNamed, volumePlace, type OpenVolume } from './volumes';

export interface EntryTable {
  readonly count: number;
  /** The path as the archive has it, or one made from hash, id or number; not yet made safe for a file system. */
  path(entry: number): string;
  /** False when the archive does not tell the path and no name list does. */
  isNamed(entry: number): boolean;
  /** How many rows are damaged. */
  readonly damaged: number;
  /** Why the row does not say where the bytes are or how they are packed; undefined where it does. */
  damage(entry: number): Fault | undefined;
  /** True when a row of it could not be read to its end, so that it cannot be written as it was either. */
  isIncomplete(entry: number): boolean;
  /** Why the path cannot be read; undefined where it can. The bytes can be read all the same. */
  pathDamage(entry: number): Fault | undefined;
  /** Offset of the stored bytes in their volume, or in the unlocked region they lie in. */
  at(entry: number): number;
  /** Length of the stored bytes. */
  stored(entry: number): number;
  /** Length of the plain bytes; NaN when it is known only after unpacking. */
  size(entry: number): number;
  /** The volume, by its place among the opened ones; -1 when it is missing. */
  volume(entry: number): number;
  /** Milliseconds since 1970. */
  time(entry: number): number | undefined;
  /** True for deletion markers. */
  isDeleted(entry: number): boolean;
  /** A folder with a row of its own: it has no bytes to be changed. */
  isDirectory(entry: number): boolean;
  /** The path of the entry whose bytes it shares, without `.` and `..`; undefined when it is no link. */
  link(entry: number): string | undefined;
  method(entry: number): Method;
  id(entry: number): Value;
  hash(entry: number): Value;
  folder(entry: number): number;
  /** The row in {@link rows} that describes the entry. */
  row(entry: number): number;
  /** The entry a row describes, or -1. */
  entryOfRow(row: number): number;
  /** Rows of the tables beside, in the order of `beside`. */
  besideRow(table: number, entry: number): number;
  /** The entry a row of a table beside belongs to, or -1. */
  entryBeside(table: number, row: number): number;
  readonly rows: Table;
  readonly beside: readonly Table[];
  facts(entry: number): EntryFacts;
}

/** Instances of the shape around each entry's bytes, where the recipe needs them to know where these are. */
export interface Wraps {
  /** Why the wrap of an entry cannot be read. */
  fault(entry: number): FaultError | undefined;
  fields(entry: number): Fields | undefined;
  /** Stored bytes the wrap turned out to have. */
  stored(entry: number): number;
  /** Offset behind the start of the wrap of what ends with it and has no length of its own. */
  restAt(entry: number): number | undefined;
}

export interface EntrySetting {
  readonly recipe: Recipe;
  readonly facts: FileFacts;
  readonly volumes: readonly OpenVolume[];
  readonly bound: BoundRows;
  readonly beside: readonly BoundRows[];
  readonly folders: FolderTable | undefined;
  readonly hashes: PathHashes | undefined;
  /** Bytes of the unlocked region that holds the entries packed together; undefined elsewhere. */
  readonly spaceSize: number | undefined;
  /** Starts of regions by volume: what an entry's bytes cannot run into. */
  regionStarts(volume: number): readonly number[];
  /** Reads the wraps of all entries, given where they start. */
  readonly wraps:
    | ((table: {
        count: number;
        at(i: number): number;
        volume(i: number): number;
        room(i: number): number;
        scope(i: number): Scope;
      }) => Promise<Wraps>)
    | undefined;
}

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
  return reader.table();
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

class EntryReader {
  private readonly rule: EntriesRule;
  private rowsOf = new Float64Array(0);
  private listIndex = new Float64Array(0);
  private count = 0;
  private ats = new Float64Array(0);
  private storeds = new Float64Array(0);
  private sizes = new Float64Array(0);
  private volumes = new Int32Array(0);
  private folders: Int32Array | undefined;
  private methods: Method[] = [];
  private deleted: Set<number> | undefined;
  private readonly damage = new Map<number, FaultError>();
  /** Volumes that are named and not there. */
  private readonly missing = new Map<number, { set: string; number: number }>();
  private wraps: Wraps | undefined;
  /** By volume: where anything starts, and which is the last of those that start there; -1 for a region. */
  private order: { starts: Float64Array; lasts: ReadonlyMap<number, number> }[] | undefined;
  private readonly row: RowCursor;
  /** Stands for the entry where no formula looks at it. */
  private readonly blank: EntryFacts;
  private readonly needsEntry: boolean;
  private readonly besideRows: RowCursor[];
  private readonly scope: Scope;

  constructor(private readonly setting: EntrySetting) {
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
    if (usesRoom(rule)) this.sortStarts();
    if (this.setting.wraps !== undefined) {
      this.wraps = await this.setting.wraps({
        count,
        at: (i) => this.ats[i]!,
        volume: (i) => this.volumes[i]!,
        room: (i) => this.roomAt(i),
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

  private placed(error: FaultError, row: number): FaultError {
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
    if (this.order !== undefined) scope.room = this.room(entry);
  }

  /** What is known of an entry while the others are still being found. */
  private bare(entry: number): EntryFacts {
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

  private sortStarts(): void {
    const { setting, ats, volumes } = this;
    this.order = setting.volumes.map((_, volume) => {
      const lasts = new Map<number, number>();
      for (let i = 0; i < this.count; i++) if (volumes[i] === volume) lasts.set(ats[i]!, i);
      if (setting.spaceSize === undefined) for (const start of setting.regionStarts(volume)) lasts.set(start, -1);
      return { lasts, starts: Float64Array.from(lasts.keys()).sort() };
    });
  }

  /** The bytes an entry has when its row states no length: up to whatever comes next in its volume. */
  private room(entry: number): number {
    const lasts = this.order?.[this.volumes[entry]!]?.lasts;
    // Of several entries that start at one place, the bytes there are the last one's: the others have none.
    const isLast = lasts === undefined || lasts.get(this.ats[entry]!) === entry;
    return isLast ? this.roomAt(entry) : 0;
  }

  /** Bytes from an entry's start to the next place where something starts. */
  private roomAt(entry: number): number {
    const { ats, volumes, setting } = this;
    const volume = volumes[entry]!;
    const at = ats[entry]!;
    const size = setting.spaceSize ?? setting.volumes[volume]?.source.size ?? at;
    const order = this.order?.[volume];
    if (order === undefined) return Math.max(0, size - at);
    const { starts } = order;
    let low = 0;
    let high = starts.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (starts[middle]! <= at) low = middle + 1;
      else high = middle;
    }
    return Math.max(0, (low < starts.length ? Math.min(starts[low]!, size) : size) - at);
  }

  table(): EntryTable {
    const {
      rule,
      setting,
      count,
      rowsOf,
      listIndex,
      ats,
      storeds,
      sizes,
      volumes,
      folders,
      methods,
      deleted,
      wraps,
      missing,
    } = this;
    const { bound, beside, hashes } = setting;
    const rows = bound.table;
    const pathColumn = rule.path?.rowField === undefined ? undefined : rows.columns[rule.path.rowField];
    let byRow: Int32Array | undefined;
    const besideRows: Map<number, number>[] = [];
    const straight = rowsOf.every((row, i) => row === i) ? 0 : undefined;
    const asksFacts = [rule.path, rule.hash, rule.id, rule.time, rule.link?.to, rule.link?.relative].some(asksOfEntry);
    const scopeFor = (entry: number): Scope => {
      const scope = scopeOf(setting.facts);
      scope.rows = [
        rows.row(rowsOf[entry]!),
        ...beside.map((one) => {
          const row = listIndex[entry]! < one.count ? one.row(listIndex[entry]!) : -1;
          return row < 0 ? undefined : one.table.row(row);
        }),
      ];
      scope.index = listIndex[entry]!;
      scope.entry = asksFacts ? this.bare(entry) : this.blank;
      scope.own = wraps?.fields(entry);
      const folder = folders?.[entry] ?? -1;
      scope.folder = folder >= 0 ? setting.folders!.facts(folder) : undefined;
      return scope;
    };
    const valueOf = (formula: EntriesRule['hash'], entry: number) => formula?.evaluate(scopeFor(entry));
    const read = (entry: number): string => {
      if (pathColumn !== undefined) return asPath(pathColumn.get(rowsOf[entry]!));
      return rule.path === undefined ? '' : asPath(rule.path.evaluate(scopeFor(entry)));
    };
    const stored = (entry: number): string => {
      try {
        return read(entry);
      } catch (error) {
        if (error instanceof FaultError) return '';
        throw error;
      }
    };
    const pathDamage = (entry: number): Fault | undefined => {
      if (entry < 0) return undefined;
      try {
        read(entry);
        return undefined;
      } catch (error) {
        if (error instanceof FaultError) return this.placed(error, rowsOf[entry]!).fault;
        throw error;
      }
    };
    // Paths that are worked out are asked for a dozen times; of very many, each would take its room.
    const texts: string[] | undefined = pathColumn === undefined && count <= MOST_KEPT_PATHS ? [] : undefined;
    const pathOf = (entry: number): { path: string; named: boolean } => {
      const own = texts === undefined ? stored(entry) : (texts[entry] ??= stored(entry));
      if (own !== '') return { path: own, named: true };
      if (rule.hash !== undefined) {
        const hash = valueOf(rule.hash, entry);
        const known = hashes?.nameOf(hash);
        return known === undefined ? { path: namelessPath(hash), named: false } : { path: known, named: true };
      }
      const id = valueOf(rule.id, entry);
      return {
        path: namelessPath(id === undefined ? entry : id, rule.id === undefined ? 10 : undefined),
        named: false,
      };
    };
    const table: EntryTable = {
      count,
      rows,
      beside: beside.map((one) => one.table),
      path: (entry) => pathOf(entry).path,
      isNamed: (entry) => pathOf(entry).named,
      damaged: this.damage.size,
      damage: (entry) => this.damage.get(entry)?.fault,
      isIncomplete: (entry) =>
        rows.incomplete.has(rowsOf[entry]!) ||
        beside.some((one) => listIndex[entry]! < one.count && one.table.incomplete.has(one.row(listIndex[entry]!))),
      pathDamage,
      at: (entry) => ats[entry]!,
      stored: (entry) => storeds[entry]!,
      size: (entry) => sizes[entry]!,
      volume: (entry) => volumes[entry]!,
      time: (entry) => {
        const time = valueOf(rule.time, entry);
        return isNumeric(time) ? Number(time) : undefined;
      },
      isDeleted: (entry) => deleted?.has(entry) ?? false,
      isDirectory: (entry) => rule.directory !== undefined && truthy(valueOf(rule.directory, entry)),
      link: (entry) => {
        const to = rule.link?.to.evaluate(scopeFor(entry));
        if (typeof to !== 'string' || to === '') return undefined;
        const isRelative = truthy(rule.link!.relative?.evaluate(scopeFor(entry)));
        return linkedPath(to, isRelative ? pathOf(entry).path : undefined);
      },
      method: (entry) => methods[entry],
      id: (entry) => valueOf(rule.id, entry),
      hash: (entry) => valueOf(rule.hash, entry),
      folder: (entry) => folders?.[entry] ?? -1,
      row: (entry) => rowsOf[entry]!,
      entryOfRow: (row) => {
        if (straight === 0) return row < count ? row : -1;
        byRow ??= entriesByRow(rowsOf, rows.length);
        return byRow[row] ?? -1;
      },
      besideRow: (one, entry) => beside[one]!.row(listIndex[entry]!),
      entryBeside: (one, row) => {
        const rowsBeside = (besideRows[one] ??= new Map(
          Array.from(listIndex, (index, entry) => [index < beside[one]!.count ? beside[one]!.row(index) : -1, entry]),
        ));
        return rowsBeside.get(row) ?? -1;
      },
      facts: (entry) => {
        const set = setting.volumes[volumes[entry]!];
        const absent = missing.get(entry);
        return new TableEntry(table, entry, set?.number ?? absent?.number ?? 0, set?.set.name ?? absent?.set ?? '');
      },
    };
    return table;
  }
}

/** True when a formula asks for more of an entry than its rows. */
function asksOfEntry(formula: Formula | undefined): boolean {
  return [...(formula?.uses.entry ?? [])].some((fact) => fact !== 'row');
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

/** With more entries than this, paths that formulas give are worked out whenever they are asked for. */
const MOST_KEPT_PATHS = 200_000;

/** Entries the archive does not name lie in a folder of their own. */
export const NAMELESS = 'nameless/';

function namelessPath(value: Value, base = 16): string {
  if (typeof value === 'string') return `${NAMELESS}${value}`;
  if (value instanceof Uint8Array) return `${NAMELESS}${Buffer.from(value).toString('hex')}`;
  if (!isNumeric(value)) return `${NAMELESS}unknown`;
  const digits = value.toString(base);
  const width = base === 10 ? 6 : typeof value === 'bigint' || value > 0xffffffff ? 16 : 8;
  return `${NAMELESS}${digits.padStart(width, '0')}`;
}

function asPath(value: Value): string {
  if (typeof value === 'string') return value;
  if (value === undefined) return '';
  throw new FormatError({ code: 'bad-text', what: 'the path of an entry is not a text', found: showValue(value) });
}

/** For each row of a table the entry it describes, or -1. */
function entriesByRow(rowsOf: ArrayLike<number>, rows: number): Int32Array {
  const entries = new Int32Array(rows).fill(-1);
  for (let entry = 0; entry < rowsOf.length; entry++) entries[rowsOf[entry]!] = entry;
  return entries;
}
