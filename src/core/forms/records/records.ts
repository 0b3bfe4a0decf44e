/** Records: rows of named values, gathered into tables over all files that are alike. */

export type Scalar = string | number | boolean | null;
export type CellValue = Scalar | readonly Scalar[];

/** A place in a file: names and positions from the outside in; for text by lines, the line first. */
export type Pointer = readonly (string | number)[];

export interface RecordRow {
  /** The table it belongs to. */
  readonly table: string;
  readonly pointer: Pointer;
  /** By column. Values inside of values are columns of their own, parted by {@link INSIDE}. */
  readonly values: Readonly<Record<string, CellValue>>;
}

/** Between the names of a value inside another. */
export const INSIDE = ' › ';
/** Between a file and what in it is a table of its own. */
const WITHIN = '#';

/** What is a record; other files are read as text. */
export type RecordFormat = 'json' | 'json-lines' | 'csv' | 'ini';

export function recordFormat(path: string): RecordFormat | undefined {
  const ending = path.slice(path.lastIndexOf('.') + 1).toLowerCase();
  const formats: Readonly<Record<string, RecordFormat>> = {
    json: 'json',
    jsonl: 'json-lines',
    ndjson: 'json-lines',
    csv: 'csv',
    tsv: 'csv',
    ini: 'ini',
    cfg: 'ini',
  };
  return formats[ending];
}

/** Files whose paths differ in numbers alone make one table: `parcels/parcel_*.json`. A hash in place of a name is no number. */
export const tableOfPath = (path: string): string => (path.startsWith('nameless/') ? path : path.replace(/\d+/g, '*'));

type Plain = Readonly<Record<string, unknown>>;

const isPlain = (value: unknown): value is Plain =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const isScalar = (value: unknown): value is Scalar => value === null || typeof value !== 'object';

/** Deeper values are shown as text. */
const MOST_DEPTH = 12;

/** The rows that a value holds: of itself, and of all lists of records in it. */
export function* rowsIn(value: unknown, table: string, pointer: Pointer = [], depth = 0): Generator<RecordRow> {
  if (Array.isArray(value)) {
    const scalars = value.filter(isScalar);
    if (scalars.length === value.length) {
      if (pointer.length === 0) yield { table, pointer, values: { values: scalars } };
      return;
    }
    for (const [i, item] of value.entries()) yield* rowsIn(item, table, [...pointer, i], depth + 1);
    return;
  }
  if (!isPlain(value)) return;
  if (isKeyed(value)) {
    for (const [key, item] of Object.entries(value))
      yield* rowOf(item as Plain, table, [...pointer, key], depth, { key });
    return;
  }
  yield* rowOf(value, table, pointer, depth, {});
}

/** An object whose values are records of the same kind is a table by keys. */
function isKeyed(value: Plain): boolean {
  const items = Object.values(value);
  if (items.length < 2 || !items.every(isPlain)) return false;
  const [first, ...rest] = items.map((item) => Object.keys(item as Plain));
  return first!.length > 0 && rest.every((keys) => keys.some((key) => first!.includes(key)));
}

function* rowOf(
  record: Plain,
  table: string,
  pointer: Pointer,
  depth: number,
  extra: Readonly<Record<string, Scalar>>,
): Generator<RecordRow> {
  const values: Record<string, CellValue> = { ...extra };
  const inner: [string, unknown, Pointer][] = [];
  const gather = (from: Plain, prefix: string, place: Pointer, level: number) => {
    for (const [key, value] of Object.entries(from)) {
      const column = `${prefix}${key}`;
      const here = [...place, key];
      if (isScalar(value)) values[column] = value;
      else if (Array.isArray(value)) {
        if (value.every(isScalar)) values[column] = value;
        else inner.push([column, value, here]);
      } else if (isKeyed(value as Plain)) inner.push([column, value, here]);
      else if (level < MOST_DEPTH) gather(value as Plain, `${column}${INSIDE}`, here, level + 1);
      else values[column] = JSON.stringify(value);
    }
  };
  gather(record, '', pointer, depth);
  if (Object.keys(values).length > 0) yield { table, pointer, values };
  for (const [column, value, place] of inner)
    yield* rowsIn(value, `${table}${table.includes(WITHIN) ? INSIDE : WITHIN}${column}`, place, depth + 1);
}

/** Where a cell lies in its file. */
export const cellPointer = (pointer: Pointer, column: string): Pointer => [...pointer, ...column.split(INSIDE)];
