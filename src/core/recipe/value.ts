/** What formulas compute with. */
import { FormatError, hexBytes } from '../faults';

/** One instance of a shape: its fields by their index in the shape. Absent fields (`when` false) are undefined. */
export interface Fields {
  get(index: number): Value;
}

/** Rows of a repeated field. */
export interface ListValue {
  readonly length: number;
  at(index: number): Value;
}

export type Value = number | bigint | string | boolean | Uint8Array | undefined | Fields | ListValue;

/** What an expression can see of one entry. */
export interface EntryFacts {
  readonly path: string;
  /** Offset of the stored bytes in their volume. */
  readonly at: number;
  /** Length of the stored bytes. */
  readonly stored: number;
  /** Length of the plain bytes. */
  readonly size: number;
  readonly method: Value;
  /** A hash over the plain (`data`) or stored (`packed`) bytes, computed beforehand. */
  content(which: 'data' | 'packed', hasher: string): Value;
}

/** What an expression can see of the whole file, while it is read or while it is laid out anew. */
export interface FileFacts {
  region(index: number): Fields;
  start(region: number): number;
  /** Stored bytes of a region. */
  length(region: number): number;
  bytes(region: number, which: 'plain' | 'stored'): Uint8Array;
  entryCount(): number;
  key(slot: string): Uint8Array;
}

export interface Scope {
  file: FileFacts;
  /** The shape instance whose fields are named bare. */
  fields: Fields | undefined;
  /** The row that `each: NAME in …` binds. */
  row: Fields | undefined;
  entry: EntryFacts | undefined;
}

/** Equality across number kinds and between byte strings. */
export function sameValue(a: Value, b: Value): boolean {
  if (a === b) return true;
  if (a instanceof Uint8Array && b instanceof Uint8Array) return Buffer.compare(a, b) === 0;
  if ((typeof a === 'bigint' || typeof b === 'bigint') && isNumeric(a) && isNumeric(b)) return BigInt(a) === BigInt(b);
  if (typeof a === 'boolean' && isNumeric(b)) return Number(a) === Number(b);
  if (typeof b === 'boolean' && isNumeric(a)) return Number(b) === Number(a);
  return false;
}

export function isNumeric(value: Value): value is number | bigint {
  return typeof value === 'bigint' || (typeof value === 'number' && Number.isFinite(value));
}

/** A value as people read it in a message. */
export function showValue(value: Value): string {
  if (value === undefined) return 'nothing';
  if (typeof value === 'string') return JSON.stringify(value.length > 60 ? `${value.slice(0, 60)}…` : value);
  if (value instanceof Uint8Array) return hexBytes(value, 16);
  if (typeof value === 'number' || typeof value === 'bigint') return value.toLocaleString('en');
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return 'length' in value ? `${value.length.toLocaleString('en')} rows` : 'a shape';
}

/**
 * A whole number that can be an offset, a length or a count.
 *
 * @throws FormatError `must-differs` otherwise
 */
export function wholeNumber(value: Value, what: string): number {
  const number = typeof value === 'bigint' ? Number(value) : value;
  if (typeof number === 'number' && Number.isSafeInteger(number) && number >= 0) return number;
  throw new FormatError({
    code: 'must-differs',
    what: `${what} is not a possible number`,
    expected: 'a whole number from 0 to 2^53',
    found: showValue(value),
  });
}
