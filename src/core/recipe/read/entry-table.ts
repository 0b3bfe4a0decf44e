/** All entries of an archive as columns, in the order of their rows. */
import { FaultError, FormatError, type Fault } from '../../faults';
import { isNumeric, scopeOf, truthy, type EntryFacts, type Scope, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { EntriesRule, Formula, Method } from '../model';
import { TableEntry } from './entry-facts';
import type { EntrySetting, Wraps } from './entry-setting';
import { linkedPath } from './linked-path';
import type { Table } from './table';

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

/** What was read of all entries, a column for each fact. */
export interface EntryColumns {
  readonly rule: EntriesRule;
  readonly setting: EntrySetting;
  readonly count: number;
  /** The row of each entry, and its place in the list of rows. */
  readonly rowsOf: Float64Array;
  readonly listIndex: Float64Array;
  readonly ats: Float64Array;
  readonly storeds: Float64Array;
  readonly sizes: Float64Array;
  readonly volumes: Int32Array;
  readonly folders: Int32Array | undefined;
  readonly methods: readonly Method[];
  readonly deleted: ReadonlySet<number> | undefined;
  readonly damage: ReadonlyMap<number, FaultError>;
  /** Volumes that are named and not there. */
  readonly missing: ReadonlyMap<number, { readonly set: string; readonly number: number }>;
  readonly wraps: Wraps | undefined;
  /** Stands for the entry where no formula looks at it. */
  readonly blank: EntryFacts;
  /** What is known of an entry without its path. */
  bare(entry: number): EntryFacts;
  /** The fault with the place of the row in the file. */
  placed(error: FaultError, row: number): FaultError;
}

/** The columns as the rest of the program asks for them; paths are worked out when they are asked for. */
export function tableOf(columns: EntryColumns): EntryTable {
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
  } = columns;
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
    scope.entry = asksFacts ? columns.bare(entry) : columns.blank;
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
      if (error instanceof FaultError) return columns.placed(error, rowsOf[entry]!).fault;
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
    damaged: columns.damage.size,
    damage: (entry) => columns.damage.get(entry)?.fault,
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

/** True when a formula asks for more of an entry than its rows. */
export function asksOfEntry(formula: Formula | undefined): boolean {
  return [...(formula?.uses.entry ?? [])].some((fact) => fact !== 'row');
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
