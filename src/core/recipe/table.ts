/** Rows of a shape, kept as columns: a million rows are a dozen typed arrays, not a million objects. */
import type { Fields, ListValue, Value } from './value';
import type { RowCursor, Shape } from './model';

type NumberArray =
  Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Int32Array | Float32Array | Float64Array;

/** A typed array that grows by doubling. */
class Growing<T extends NumberArray> {
  length = 0;
  constructor(
    private array: T,
    private readonly make: (size: number) => T,
  ) {}

  push(value: number): void {
    if (this.length === this.array.length) this.reserve(this.length + 1);
    this.array[this.length++] = value;
  }
  get(index: number): number {
    return this.array[index]!;
  }
  reserve(size: number): void {
    if (size <= this.array.length) return;
    const larger = this.make(Math.max(size, this.array.length * 2, 16));
    larger.set(this.array.subarray(0, this.length) as never);
    this.array = larger;
  }
}

const growing = {
  u8: () => new Growing(new Uint8Array(0), (size) => new Uint8Array(size)),
  i8: () => new Growing(new Int8Array(0), (size) => new Int8Array(size)),
  u16: () => new Growing(new Uint16Array(0), (size) => new Uint16Array(size)),
  i16: () => new Growing(new Int16Array(0), (size) => new Int16Array(size)),
  u32: () => new Growing(new Uint32Array(0), (size) => new Uint32Array(size)),
  i32: () => new Growing(new Int32Array(0), (size) => new Int32Array(size)),
  f32: () => new Growing(new Float32Array(0), (size) => new Float32Array(size)),
  f64: () => new Growing(new Float64Array(0), (size) => new Float64Array(size)),
};

export type NumberStore = keyof typeof growing;

export interface Column {
  /** Makes room for `rows` rows in all. */
  reserve(rows: number): void;
  /** Adds a row in which the field is absent. */
  pushAbsent(): void;
  get(row: number): Value;
  /** The value that writes the very bytes that were read: texts come back as their bytes. */
  kept(row: number): Value;
}

/** Numbers of up to 53 bits. */
export class NumberColumn implements Column {
  private readonly values: Growing<NumberArray>;
  private absent: Set<number> | undefined;
  constructor(store: NumberStore) {
    this.values = growing[store]() as Growing<NumberArray>;
  }
  push(value: number): void {
    this.values.push(value);
  }
  pushAbsent(): void {
    (this.absent ??= new Set()).add(this.values.length);
    this.values.push(0);
  }
  reserve(rows: number): void {
    this.values.reserve(rows);
  }
  get(row: number): Value {
    return this.absent?.has(row) ? undefined : this.values.get(row);
  }
  kept(row: number): Value {
    return this.get(row);
  }
}

/** 64-bit numbers, as two halves so that the small ones cost no bigint. */
export class WideColumn implements Column {
  private readonly high: Growing<Int32Array | Uint32Array>;
  private readonly low = growing.u32();
  private absent: Set<number> | undefined;
  constructor(private readonly signed: boolean) {
    this.high = (signed ? growing.i32() : growing.u32()) as Growing<Int32Array | Uint32Array>;
  }
  push(value: number | bigint): void {
    if (typeof value === 'number' && value >= 0) {
      this.high.push(Math.floor(value / 0x100000000));
      this.low.push(value % 0x100000000);
    } else {
      const wide = BigInt(value);
      this.high.push(Number(BigInt.asIntN(32, wide >> 32n)));
      this.low.push(Number(BigInt.asUintN(32, wide)));
    }
  }
  pushAbsent(): void {
    (this.absent ??= new Set()).add(this.low.length);
    this.push(0);
  }
  reserve(rows: number): void {
    this.high.reserve(rows);
    this.low.reserve(rows);
  }
  get(row: number): Value {
    if (this.absent?.has(row)) return undefined;
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

/** Texts and byte strings, as stretches of the bytes they were read from; decoded when asked for. */
export class StretchColumn implements Column {
  private readonly starts = growing.u32();
  private readonly lengths = growing.u32();
  private absent: Set<number> | undefined;
  private bytes: Uint8Array = new Uint8Array(0);
  constructor(private readonly decode: (stretch: Uint8Array) => Value) {}

  push(bytes: Uint8Array, start: number, length: number): void {
    this.bytes = bytes;
    this.starts.push(start);
    this.lengths.push(length);
  }
  pushAbsent(): void {
    (this.absent ??= new Set()).add(this.starts.length);
    this.starts.push(0);
    this.lengths.push(0);
  }
  reserve(rows: number): void {
    this.starts.reserve(rows);
    this.lengths.reserve(rows);
  }
  get(row: number): Value {
    const stretch = this.kept(row);
    return stretch === undefined ? undefined : this.decode(stretch);
  }
  kept(row: number): Uint8Array | undefined {
    if (this.absent?.has(row)) return undefined;
    const start = this.starts.get(row);
    return this.bytes.subarray(start, start + this.lengths.get(row));
  }
}

/** A shape inside a shape: each row has one row in the table of the inner shape. */
export class ShapeColumn implements Column {
  readonly table: Table;
  private readonly rows = growing.f64();
  constructor(shape: Shape) {
    this.table = new Table(shape);
  }
  push(): void {
    this.rows.push(this.table.length);
  }
  pushAbsent(): void {
    this.rows.push(-1);
  }
  reserve(rows: number): void {
    this.rows.reserve(rows);
  }
  get(row: number): Fields | undefined {
    const inner = this.rows.get(row);
    return inner < 0 ? undefined : this.table.row(inner);
  }
  kept(row: number): Value {
    return this.get(row);
  }
  /** The row of the inner table that belongs to a row, or -1. */
  innerRow(row: number): number {
    return this.rows.get(row);
  }
}

/** A repeated field: each row has a stretch of the column of its items. */
export class ListColumn implements Column {
  private readonly firsts = growing.f64();
  private readonly counts = growing.f64();
  private total = 0;
  constructor(readonly items: Column) {}
  push(count: number): void {
    this.firsts.push(this.total);
    this.counts.push(count);
    this.total += count;
  }
  pushAbsent(): void {
    this.firsts.push(-1);
    this.counts.push(0);
  }
  reserve(rows: number): void {
    this.firsts.reserve(rows);
    this.counts.reserve(rows);
  }
  get(row: number): ListValue | undefined {
    const first = this.firsts.get(row);
    if (first < 0) return undefined;
    return { length: this.counts.get(row), at: (index) => this.items.get(first + index) };
  }
  kept(row: number): Value {
    const first = this.firsts.get(row);
    if (first < 0) return undefined;
    return { length: this.counts.get(row), at: (index: number) => this.items.kept(first + index) };
  }
  first(row: number): number {
    return this.firsts.get(row);
  }
}

/** All instances of a shape that were read in one place. */
export class Table {
  readonly columns: readonly Column[];
  /** Where each row starts in the bytes it was read from. */
  private readonly starts = growing.f64();
  private reused: RowCursor | undefined;

  constructor(readonly shape: Shape) {
    this.columns = shape.fields.map((field) => field.kind.makeColumn());
  }
  /** A row that is moved about while the table is filled. */
  get current(): RowCursor {
    return (this.reused ??= this.row(0));
  }
  get length(): number {
    return this.starts.length;
  }
  begin(start: number): void {
    this.starts.push(start);
  }
  start(row: number): number {
    return this.starts.get(row);
  }
  reserve(rows: number): void {
    this.starts.reserve(rows);
    for (const column of this.columns) column.reserve(rows);
  }
  row(row: number): RowCursor {
    const { columns } = this;
    return {
      table: this,
      row,
      get(index) {
        return columns[index]!.get(this.row);
      },
    };
  }
}
