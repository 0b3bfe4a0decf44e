/** The items of a list of the new file: rows that were found, and new ones. */
import type { Shape } from '../../model';
import { itemsOf, ShapeColumn, type Column } from '../../read/columns';
import type { Table } from '../../read/table';
import type { Brought, FoundRow } from '../model/identity';

/** An item that is not in the file that was found. */
export interface FreshItem {
  /** Tells it from all others, over all rounds. */
  readonly key: string;
  readonly out?: number;
  readonly folder?: number;
  readonly block?: number;
  readonly template?: FoundRow;
  readonly brings?: Brought;
}

export interface ListItems {
  /** Rows of the table they were read into; a new item as -1, -2 … by its position in `fresh`. */
  readonly rows: Int32Array;
  readonly fresh: readonly FreshItem[];
  /** In a table of blocks, for each row: the entry it belongs to, and which of its blocks it is. */
  readonly owners?: { readonly outs: Int32Array; readonly blocks: Int32Array };
}

/** A list that was found. */
export interface FoundList {
  readonly column: Column;
  readonly row: number;
}

/** The items of a list that was found: the table of their shape, and their rows in it. */
export interface FoundItems {
  readonly table: Table;
  readonly count: number;
  row(index: number): number;
}

/** @returns undefined where there is no such list, or its items are no shapes */
export function foundItems(list: FoundList | undefined): FoundItems | undefined {
  if (list === undefined) return undefined;
  const items = itemsOf(list.column, list.row);
  if (items === undefined || !(items.column instanceof ShapeColumn)) return undefined;
  const { column, first, count } = items;
  return { table: column.table, count, row: (index) => column.innerRow(first + index) };
}

export function shapeOfItems(list: FoundList | undefined): Shape | undefined {
  return foundItems(list)?.table.shape;
}

/** Gathers the items of one list in order. */
export class ItemsBuilder {
  private readonly rows: number[] = [];
  private readonly fresh: FreshItem[] = [];

  get length(): number {
    return this.rows.length;
  }
  keep(row: number): void {
    this.rows.push(row);
  }
  /** Puts new items in front of the item at `position`. */
  insert(position: number, items: readonly FreshItem[]): void {
    const numbers = items.map((item) => -this.fresh.push(item));
    this.rows.splice(position, 0, ...numbers);
  }
  build(): ListItems {
    return { rows: Int32Array.from(this.rows), fresh: this.fresh };
  }
}

/** The same items in another order. */
export function reordered({ rows, fresh, owners }: ListItems, order: Int32Array): ListItems {
  const moved = (numbers: Int32Array) => Int32Array.from(order, (i) => numbers[i]!);
  return {
    rows: moved(rows),
    fresh,
    ...(owners === undefined ? {} : { owners: { outs: moved(owners.outs), blocks: moved(owners.blocks) } }),
  };
}
