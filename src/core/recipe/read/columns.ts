/** Columns: one field of all rows of a shape. Rows may be filled in any order, as recursion does. */
import { copyOf } from '../../bytes';
import type { Fields, ListValue, Stretch, Value } from '../formula/value';
import { growing, type Growing, type NumberStore } from './growing';
import type { Table } from './table';

export interface Column {
  /** Makes room for `rows` rows in all. */
  reserve(rows: number): void;
  /** Marks a row in which the field is absent. */
  putAbsent(row: number): void;
  get(row: number): Value;
  /** The value that writes the very bytes that were read: texts come back as their bytes. */
  kept(row: number): Value;
}

/** Remembers rows without a value, a bit each; most columns have none. */
class Absences {
  private bits: Growing | undefined;
  add(row: number): void {
    const bits = (this.bits ??= growing.u8() as Growing);
    bits.put(row >> 3, bits.get(row >> 3) | (1 << (row & 7)));
  }
  has(row: number): boolean {
    return this.bits !== undefined && (this.bits.get(row >> 3) & (1 << (row & 7))) !== 0;
  }
}

/** Numbers of up to 53 bits. */
export class NumberColumn implements Column {
  private readonly values: Growing;
  private readonly absent = new Absences();
  constructor(store: NumberStore) {
    this.values = growing[store]() as Growing;
  }
  put(row: number, value: number): void {
    this.values.put(row, value);
  }
  putAbsent(row: number): void {
    this.absent.add(row);
  }
  reserve(rows: number): void {
    this.values.reserve(rows);
  }
  get(row: number): Value {
    return this.absent.has(row) ? undefined : this.values.get(row);
  }
  kept(row: number): Value {
    return this.get(row);
  }
}

/** 64-bit numbers, as two halves so that the small ones cost no bigint. */
export class WideColumn implements Column {
  private readonly high: Growing<Int32Array | Uint32Array>;
  private readonly low = growing.u32();
  private readonly absent = new Absences();
  constructor(private readonly signed: boolean) {
    this.high = (signed ? growing.i32() : growing.u32()) as Growing<Int32Array | Uint32Array>;
  }
  put(row: number, value: number | bigint): void {
    if (typeof value === 'number' && value >= 0) {
      this.high.put(row, Math.floor(value / 0x100000000));
      this.low.put(row, value % 0x100000000);
    } else {
      const wide = BigInt(value);
      this.high.put(row, Number(BigInt.asIntN(32, wide >> 32n)));
      this.low.put(row, Number(BigInt.asUintN(32, wide)));
    }
  }
  putAbsent(row: number): void {
    this.absent.add(row);
  }
  reserve(rows: number): void {
    this.high.reserve(rows);
    this.low.reserve(rows);
  }
  get(row: number): Value {
    if (this.absent.has(row)) return undefined;
    const high = this.high.get(row);
    const low = this.low.get(row);
    if (high >= 0 && high < 0x200000) return high * 0x100000000 + low;
    const wide = (BigInt(high) << 32n) | BigInt(low);
    if (!this.signed) return wide;
    const small = Number(wide);
    return Number.isSafeInteger(small) ? small : wide;
  }
  kept(row: number): Value {
    return this.get(row);
  }
}

/** Above this many bytes a byte string read on the way is left in the file. */
export const FAR_BYTES = 64 << 10;

/**
 * Texts, byte strings, and numbers written as text: stretches of the bytes they were read from, decoded when asked for.
 * Bytes from a second buffer are copied into an arena, so that no window of the file is kept alive.
 */
export class StretchColumn implements Column {
  private readonly starts = growing.u32();
  private readonly lengths = growing.u32();
  private readonly absent = new Absences();
  private bytes: Uint8Array | undefined;
  private arena: Uint8Array = new Uint8Array(0);
  private used = 0;
  private far: Map<number, Stretch> | undefined;
  constructor(private readonly decode: (stretch: Uint8Array) => Value) {}

  put(row: number, bytes: Uint8Array, start: number, length: number): void {
    if (this.bytes === undefined && this.used === 0 && bytes.length > 0) this.bytes = bytes;
    if (bytes === this.bytes) {
      this.starts.put(row, start);
    } else {
      this.starts.put(row, this.store(bytes.subarray(start, start + length)));
    }
    this.lengths.put(row, length);
  }
  /** A byte string that stays in the file. */
  putFar(row: number, stretch: Stretch): void {
    (this.far ??= new Map()).set(row, stretch);
  }
  putAbsent(row: number): void {
    this.absent.add(row);
  }
  reserve(rows: number): void {
    this.starts.reserve(rows);
    this.lengths.reserve(rows);
  }
  get(row: number): Value {
    const stretch = this.kept(row);
    return stretch instanceof Uint8Array ? this.decode(stretch) : stretch;
  }
  kept(row: number): Uint8Array | Stretch | undefined {
    if (this.absent.has(row)) return undefined;
    const far = this.far?.get(row);
    if (far !== undefined) return far;
    const start = this.starts.get(row);
    return (this.bytes ?? this.arena).subarray(start, start + this.lengths.get(row));
  }

  /** Moves what is held into the arena, and adds to it. */
  private store(added: Uint8Array): number {
    if (this.bytes !== undefined) {
      this.arena = copyOf(this.bytes);
      this.used = this.arena.length;
      this.bytes = undefined;
    }
    const at = this.used;
    if (at + added.length > this.arena.length) {
      const larger = new Uint8Array(Math.max(at + added.length, this.arena.length * 2, 1024));
      larger.set(this.arena.subarray(0, at));
      this.arena = larger;
    }
    this.arena.set(added, at);
    this.used = at + added.length;
    return at;
  }
}

/** Where the data of entries lie inside their rows. */
export class DataColumn implements Column {
  private readonly ats = growing.f64();
  private readonly lengths = growing.f64();
  private readonly absent = new Absences();
  put(row: number, at: number, length: number): void {
    this.ats.put(row, at);
    this.lengths.put(row, length);
  }
  putAbsent(row: number): void {
    this.absent.add(row);
  }
  reserve(rows: number): void {
    this.ats.reserve(rows);
    this.lengths.reserve(rows);
  }
  get(row: number): Stretch | undefined {
    if (this.absent.has(row)) return undefined;
    return { stretch: true, at: this.ats.get(row), length: this.lengths.get(row) };
  }
  kept(row: number): Value {
    return this.get(row);
  }
}

/** A shape inside a shape: each row has one row in the table of the inner shape. */
export class ShapeColumn implements Column {
  private readonly rows = growing.f64();
  constructor(readonly table: Table) {}
  put(row: number, inner: number): void {
    this.rows.put(row, inner + 1);
  }
  putAbsent(row: number): void {
    this.rows.put(row, 0);
  }
  reserve(rows: number): void {
    this.rows.reserve(rows);
    // Each row has one inner row at the most, besides those the table holds already. How often a shape holds
    // itself is not known beforehand: it grows on the way.
    if (!this.table.shape.recursive) this.table.reserve(this.table.length + rows);
  }
  get(row: number): Fields | undefined {
    const inner = this.innerRow(row);
    return inner < 0 ? undefined : this.table.row(inner);
  }
  kept(row: number): Value {
    return this.get(row);
  }
  /** The row of the inner table that belongs to a row, or -1. */
  innerRow(row: number): number {
    return this.rows.get(row) - 1;
  }
}

/** A repeated field whose items are one after the other in one column. */
export class ListColumn implements Column {
  private readonly firsts = growing.f64();
  private readonly counts = growing.f64();
  private total = 0;
  constructor(readonly items: Column) {}
  /** Begins the list of a row. @returns the column of the items and the first one's place in it */
  open(row: number): { items: Column; first: number } {
    this.firsts.put(row, this.total + 1);
    return { items: this.items, first: this.total };
  }
  close(row: number, count: number): void {
    this.counts.put(row, count);
    this.total = this.first(row) + count;
  }
  putAbsent(row: number): void {
    this.firsts.put(row, 0);
  }
  reserve(rows: number): void {
    this.firsts.reserve(rows);
    this.counts.reserve(rows);
  }
  count(row: number): number {
    return this.firsts.get(row) === 0 ? 0 : this.counts.get(row);
  }
  first(row: number): number {
    return this.firsts.get(row) - 1;
  }
  itemsOf(row: number): { column: Column; first: number; count: number } | undefined {
    return this.first(row) < 0 ? undefined : { column: this.items, first: this.first(row), count: this.count(row) };
  }
  get(row: number): ListValue | undefined {
    const first = this.first(row);
    if (first < 0) return undefined;
    return { length: this.count(row), at: (index) => this.items.get(first + index) };
  }
  kept(row: number): Value {
    const first = this.first(row);
    if (first < 0) return undefined;
    return { length: this.count(row), at: (index: number) => this.items.kept(first + index) };
  }
}

/** A repeated field whose items may hold such lists again: each list has a column of its own. */
export class LooseListColumn implements Column {
  private readonly lists: ({ column: Column; count: number } | undefined)[] = [];
  constructor(private readonly makeItems: () => Column) {}
  open(row: number): { items: Column; first: number } {
    const column = this.makeItems();
    this.lists[row] = { column, count: 0 };
    return { items: column, first: 0 };
  }
  close(row: number, count: number): void {
    this.lists[row]!.count = count;
  }
  putAbsent(row: number): void {
    this.lists[row] = undefined;
  }
  reserve(): void {}
  itemsOf(row: number): { column: Column; first: number; count: number } | undefined {
    const list = this.lists[row];
    return list === undefined ? undefined : { column: list.column, first: 0, count: list.count };
  }
  get(row: number): ListValue | undefined {
    const list = this.lists[row];
    return list === undefined ? undefined : { length: list.count, at: (index) => list.column.get(index) };
  }
  kept(row: number): Value {
    const list = this.lists[row];
    return list === undefined ? undefined : { length: list.count, at: (index: number) => list.column.kept(index) };
  }
}

/** One of several kinds, chosen for each row by the file. */
export class ChoiceColumn implements Column {
  private readonly chosen = growing.u8();
  constructor(readonly columns: readonly Column[]) {}
  /** @returns the column that takes the row */
  choose(row: number, index: number): Column {
    this.chosen.put(row, index + 1);
    return this.columns[index]!;
  }
  putAbsent(row: number): void {
    this.chosen.put(row, 0);
  }
  reserve(rows: number): void {
    this.chosen.reserve(rows);
  }
  chosenColumn(row: number): Column | undefined {
    const index = this.chosen.get(row) - 1;
    return index < 0 ? undefined : this.columns[index];
  }
  get(row: number): Value {
    return this.chosenColumn(row)?.get(row);
  }
  kept(row: number): Value {
    return this.chosenColumn(row)?.kept(row);
  }
}

/** The items of a repeated field in one row, whichever column keeps them. */
export function itemsOf(column: Column, row: number): { column: Column; first: number; count: number } | undefined {
  if (column instanceof ListColumn || column instanceof LooseListColumn) return column.itemsOf(row);
  if (column instanceof ChoiceColumn) {
    const chosen = column.chosenColumn(row);
    return chosen === undefined ? undefined : itemsOf(chosen, row);
  }
  return undefined;
}

/** The table and row of a shape in one row of a column, whichever column keeps it. */
export function instanceOf(column: Column, row: number): { table: Table; row: number } | undefined {
  if (column instanceof ShapeColumn) {
    const inner = column.innerRow(row);
    return inner < 0 ? undefined : { table: column.table, row: inner };
  }
  if (column instanceof ChoiceColumn) {
    const chosen = column.chosenColumn(row);
    return chosen === undefined ? undefined : instanceOf(chosen, row);
  }
  return undefined;
}
