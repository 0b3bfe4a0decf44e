/** Where fields came to lie in the round before, for formulas that ask for their start or length. */
import type { Table } from '../../read/table';

interface Mark {
  start: number;
  length: number;
}

/** What stands for an instance: a row of the old file, or a name for a new one. */
export type InstanceKey = { readonly table: Table; readonly row: number } | string;

export class Places {
  private readonly old = new Map<Table, Map<number, { starts: Float64Array; lengths: Float64Array }>>();
  private readonly fresh = new Map<string, Mark>();
  /** Set when a field has come to lie elsewhere than before; whoever looks at it sets it back. */
  moved = false;

  note(key: InstanceKey, field: number, start: number, length: number): void {
    if (typeof key === 'string') {
      const name = `${key}.${field}`;
      const before = this.fresh.get(name);
      if (before?.start === start && before.length === length) return;
      this.moved = true;
      this.fresh.set(name, { start, length });
      return;
    }
    const { starts, lengths } = this.columnOf(key.table, field);
    if (starts[key.row] === start && lengths[key.row] === length) return;
    this.moved = true;
    starts[key.row] = start;
    lengths[key.row] = length;
  }
  start(key: InstanceKey, field: number): number {
    if (typeof key === 'string') return this.fresh.get(`${key}.${field}`)?.start ?? 0;
    return this.columnOf(key.table, field).starts[key.row]!;
  }
  length(key: InstanceKey, field: number): number {
    if (typeof key === 'string') return this.fresh.get(`${key}.${field}`)?.length ?? 0;
    return this.columnOf(key.table, field).lengths[key.row]!;
  }

  /** Begins with where the fields were found. */
  private columnOf(table: Table, field: number): { starts: Float64Array; lengths: Float64Array } {
    let fields = this.old.get(table);
    if (fields === undefined) this.old.set(table, (fields = new Map()));
    let column = fields.get(field);
    if (column === undefined) {
      const starts = new Float64Array(table.length);
      const lengths = new Float64Array(table.length);
      for (let row = 0; row < table.length; row++) {
        starts[row] = table.markedStart(field, row);
        lengths[row] = table.markedLength(field, row);
      }
      fields.set(field, (column = { starts, lengths }));
    }
    return column;
  }
}

export function keyText(key: InstanceKey): string {
  return typeof key === 'string' ? key : `@${key.table.id}:${key.row}`;
}
