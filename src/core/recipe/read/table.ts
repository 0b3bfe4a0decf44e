/** Rows of a shape, kept as columns: a million rows are a dozen typed arrays, not a million objects. */
import type { Fault, FaultError } from '../../faults';
import type { Fields, Value } from '../formula/value';
import type { Shape } from '../model';
import type { Column } from './columns';
import { growing, type Growing } from './growing';

export type { Column } from './columns';

/** One row of a table as {@link Fields}; move `row` to look at another. */
export class RowCursor implements Fields {
  constructor(
    readonly table: Table,
    public row: number,
  ) {}
  get shape(): Shape {
    return this.table.shape;
  }
  get(index: number): Value {
    return this.table.columns[index]!.get(this.row);
  }
  startOf(index: number): number {
    return this.table.markedStart(index, this.row);
  }
  lengthOf(index: number): number {
    return this.table.markedLength(index, this.row);
  }
  /** The row a number of places further on in reading order. */
  neighbour(by: number): RowCursor | undefined {
    const row = this.row + by;
    return row >= 0 && row < this.table.length ? this.table.row(row) : undefined;
  }
}

let lastId = 0;

/** So many remarks are kept of a table. */
export const MOST_REMARKS = 100;

/** All instances of a shape that were read in one region. */
export class Table {
  /** Tells it from all other tables. */
  readonly id = lastId++;
  readonly columns: readonly Column[];
  length = 0;
  /** Where each row starts in the bytes it was read from. */
  private readonly starts = growing.f64();
  /** Rows with a field that is not what it must be, and what is wrong. */
  readonly damage = new Map<number, FaultError>();
  /** Rows of which a field could not be read at all: they cannot be written as they were either. */
  readonly incomplete = new Set<number>();
  /** Rows with a value that a strict reader would not take, the first {@link MOST_REMARKS}. */
  readonly remarks = new Map<number, Fault>();
  private readonly marks = new Map<number, { start: Growing; length: Growing }>();
  private reserved = 0;
  private reused: RowCursor | undefined;

  constructor(
    readonly shape: Shape,
    tables: Tables,
  ) {
    // Known before its columns are made: a shape may hold itself.
    tables.add(this);
    this.columns = shape.fields.map((field) => field.kind.makeColumn(tables));
    for (const field of shape.fields)
      if (field.marked) this.marks.set(field.index, { start: growing.f64(), length: growing.f64() });
  }
  /** A row that is moved about while the table is filled. */
  get current(): RowCursor {
    return (this.reused ??= this.row(0));
  }
  /** Begins a row. @returns its number */
  begin(start: number): number {
    this.starts.put(this.length, start);
    return this.length++;
  }
  start(row: number): number {
    return this.starts.get(row);
  }
  mark(field: number, row: number, start: number, length: number): void {
    const mark = this.marks.get(field);
    if (mark === undefined) return;
    mark.start.put(row, start);
    mark.length.put(row, length);
  }
  markedStart(field: number, row: number): number {
    return this.marks.get(field)?.start.get(row) ?? 0;
  }
  markedLength(field: number, row: number): number {
    return this.marks.get(field)?.length.get(row) ?? 0;
  }
  reserve(rows: number): void {
    // Shapes that share a shape would else come here once for every way to it.
    if (rows <= this.reserved) return;
    this.reserved = rows;
    this.starts.reserve(rows);
    for (const column of this.columns) column.reserve(rows);
  }
  row(row: number): RowCursor {
    return new RowCursor(this, row);
  }
}

/** How far each table of a region is filled, in the order in which they were made. */
export type TableLengths = readonly number[];

/** The tables of one region, one for each shape in it. */
export class Tables {
  private readonly byShape = new Map<Shape, Table>();

  add(table: Table): void {
    this.byShape.set(table.shape, table);
  }
  of(shape: Shape): Table {
    return this.byShape.get(shape) ?? new Table(shape, this);
  }
  find(shape: Shape): Table | undefined {
    return this.byShape.get(shape);
  }
  all(): Iterable<Table> {
    return this.byShape.values();
  }
  /** How far each table is filled; {@link reset} goes back there after a read that ran out of bytes. */
  lengths(): TableLengths {
    const lengths: number[] = [];
    for (const table of this.byShape.values()) lengths.push(table.length);
    return lengths;
  }
  reset(lengths: TableLengths): void {
    let place = 0;
    for (const table of this.byShape.values()) {
      table.length = lengths[place++] ?? 0;
      for (const notes of [table.damage, table.remarks])
        for (const row of notes.keys()) if (row >= table.length) notes.delete(row);
      for (const row of table.incomplete) if (row >= table.length) table.incomplete.delete(row);
    }
  }
}
