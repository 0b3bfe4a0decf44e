/** What the columns of a table hold, guessed from all of their values. */
import type { CellValue, RecordRow } from './records';

export type ColumnKind = 'whole' | 'number' | 'text' | 'yes-no' | 'list' | 'mixed';

export interface Column {
  readonly name: string;
  readonly kind: ColumnKind;
  /** Rows that have no such value. */
  readonly empty: number;
  /** Of numbers. */
  readonly low: number | null;
  readonly high: number | null;
}

function kindOfValue(value: CellValue): ColumnKind | undefined {
  if (value === null) return undefined;
  switch (typeof value) {
    case 'number':
      return Number.isInteger(value) ? 'whole' : 'number';
    case 'boolean':
      return 'yes-no';
    case 'string':
      return 'text';
    default:
      return 'list';
  }
}

/** Gathers rows as they come; columns are in the order in which they were first seen. */
export class Columns {
  private readonly found = new Map<
    string,
    { kind: ColumnKind | undefined; count: number; low: number; high: number }
  >();
  private rows = 0;

  add({ values }: Pick<RecordRow, 'values'>): void {
    this.rows++;
    for (const [name, value] of Object.entries(values)) {
      let column = this.found.get(name);
      if (column === undefined)
        this.found.set(name, (column = { kind: undefined, count: 0, low: Infinity, high: -Infinity }));
      const kind = kindOfValue(value);
      if (kind === undefined) continue;
      column.count++;
      if (column.kind === undefined) column.kind = kind;
      else if (column.kind !== kind)
        column.kind = [column.kind, kind].every((one) => one === 'whole' || one === 'number') ? 'number' : 'mixed';
      if (typeof value === 'number') {
        column.low = Math.min(column.low, value);
        column.high = Math.max(column.high, value);
      }
    }
  }

  all(): Column[] {
    return [...this.found].map(([name, { kind = 'mixed', count, low, high }]) => ({
      name,
      kind,
      empty: this.rows - count,
      low: low === Infinity ? null : low,
      high: high === -Infinity ? null : high,
    }));
  }
}
