/** Where fields came to lie in the round before, for formulas that ask for their start or length. */
import type { Table } from '../../read/table';

interface Mark {
  readonly start: number;
  readonly length: number;
}

/** What represents an instance: a row of the old file, or a name for a new one. */
export type InstanceKey = { readonly table: Table; readonly row: number } | string;

/** Where one field of all rows of a table has come to lie. Few that moved are kept one by one, many as a column. */
class FieldMarks {
  private few: Map<number, Mark> | undefined = new Map();
  private starts = NO_MARKS;
  private lengths = NO_MARKS;

  constructor(
    private readonly table: Table,
    private readonly field: number,
  ) {}

  start(row: number): number {
    if (this.few === undefined) return this.starts[row]!;
    return this.few.get(row)?.start ?? this.table.markedStart(this.field, row);
  }

  length(row: number): number {
    if (this.few === undefined) return this.lengths[row]!;
    return this.few.get(row)?.length ?? this.table.markedLength(this.field, row);
  }

  set(row: number, mark: Mark): void {
    if (this.few !== undefined && this.few.size < FEW) {
      this.few.set(row, mark);
      return;
    }
    if (this.few !== undefined) this.becomeColumn();
    this.starts[row] = mark.start;
    this.lengths[row] = mark.length;
  }

  private becomeColumn(): void {
    const { length } = this.table;
    const starts = new Float64Array(length);
    const lengths = new Float64Array(length);
    for (let row = 0; row < length; row++) {
      starts[row] = this.start(row);
      lengths[row] = this.length(row);
    }
    this.starts = starts;
    this.lengths = lengths;
    this.few = undefined;
  }
}

const NO_MARKS = new Float64Array(0);
const FEW = 256;

export class Places {
  private readonly old = new Map<Table, Map<number, FieldMarks>>();
  private readonly fresh = new Map<string, Mark>();
  /** Set when a field has come to lie elsewhere than before; the reader resets it. */
  moved = false;

  note(key: InstanceKey, field: number, start: number, length: number): void {
    if (this.start(key, field) === start && this.length(key, field) === length && this.isKnown(key, field)) return;
    this.moved = true;
    if (typeof key === 'string') this.fresh.set(`${key}.${field}`, { start, length });
    else this.marksOf(key.table, field).set(key.row, { start, length });
  }

  start(key: InstanceKey, field: number): number {
    if (typeof key === 'string') return this.fresh.get(`${key}.${field}`)?.start ?? 0;
    const { table, row } = key;
    return this.old.get(table)?.get(field)?.start(row) ?? table.markedStart(field, row);
  }

  length(key: InstanceKey, field: number): number {
    if (typeof key === 'string') return this.fresh.get(`${key}.${field}`)?.length ?? 0;
    const { table, row } = key;
    return this.old.get(table)?.get(field)?.length(row) ?? table.markedLength(field, row);
  }

  /** Rows that were found lie where they were found until they are moved; new ones lie nowhere. */
  private isKnown(key: InstanceKey, field: number): boolean {
    return typeof key !== 'string' || this.fresh.has(`${key}.${field}`);
  }

  private marksOf(table: Table, field: number): FieldMarks {
    let fields = this.old.get(table);
    if (fields === undefined) this.old.set(table, (fields = new Map()));
    let marks = fields.get(field);
    if (marks === undefined) fields.set(field, (marks = new FieldMarks(table, field)));
    return marks;
  }
}

export function keyText(key: InstanceKey): string {
  return typeof key === 'string' ? key : `@${key.table.id}:${key.row}`;
}
