/** The rows of entries in one list, with the lists next to it: one order for all of them. */
import { NO_COMPANIONS, type RowRoles } from './row-roles';
import type { BoundPlace } from './bound-places';
import { foundItems, type FreshItem, type ListItems } from './list-items';

export class EntryGroup {
  /** For each row of the new lists: its index in the lists that were found, or -1. */
  private readonly indexes: Int32Array;
  /** Its entry, or -1. */
  private readonly outs: Int32Array;
  /** New rows that are none of an entry, by their position before sorting. */
  private readonly strangers = new Map<number, FreshItem>();
  private order: Int32Array | undefined;
  /** For each slot of a hashed table: the position of its row before sorting, or -1 where the row `filler` is, or a new one of none. */
  private slots: { readonly items: Int32Array; readonly filler: number | undefined } | undefined;

  constructor(
    readonly places: readonly BoundPlace[],
    roles: RowRoles,
  ) {
    const [primary] = places;
    const found = foundItems(primary!.list);
    const indexes: number[] = [];
    const outs: number[] = [];
    let behindLast = 0;
    for (let i = 0; i < (found?.count ?? 0); i++) {
      const row = found!.row(i);
      if (roles.isGone(found!.table, row)) continue;
      const out = roles.entryOf(found!.table, row);
      indexes.push(i);
      outs.push(out);
      if (out >= 0) behindLast = indexes.length;
    }
    // New rows by the position they come in front of, among those that stay.
    const fresh = new Map<number, (number | FreshItem)[]>();
    for (const out of roles.added) {
      const row = roles.rowBefore(out);
      const behind = row === undefined ? -1 : indexes.findLastIndex((i) => found!.row(i) <= row);
      const position = behind < 0 ? behindLast : behind + 1;
      const { before, behind: following } = row === undefined ? roles.companionsFor(out) : NO_COMPANIONS;
      const list = fresh.get(position) ?? [];
      fresh.set(position, list);
      list.push(...before, out, ...following);
    }
    const allIndexes: number[] = [];
    const allOuts: number[] = [];
    for (let position = 0; position <= indexes.length; position++) {
      for (const item of fresh.get(position) ?? []) {
        if (typeof item !== 'number') this.strangers.set(allOuts.length, item);
        allIndexes.push(-1);
        allOuts.push(typeof item === 'number' ? item : -1);
      }
      if (position === indexes.length) break;
      allIndexes.push(indexes[position]!);
      allOuts.push(outs[position]!);
    }
    this.indexes = Int32Array.from(allIndexes);
    this.outs = Int32Array.from(allOuts);
  }

  /** How many rows the lists have. */
  get length(): number {
    return this.outs.length;
  }

  /** Entries in the order of their rows. */
  entryOrder(): Int32Array {
    const { outs } = this;
    const order = this.slots?.items ?? this.order;
    const all = order === undefined ? outs : Int32Array.from(order, (i) => (i < 0 ? -1 : outs[i]!));
    return all.filter((out) => out >= 0);
  }

  /** @returns whether it is another order than before */
  reorder(order: Int32Array): boolean {
    const before = this.order;
    if (order.every((from, i) => from === (before?.[i] ?? i))) return false;
    this.order = order;
    return true;
  }

  /** The place among the found rows of a row before sorting; -1 for a new one. */
  foundIndex(i: number): number {
    return this.indexes[i]!;
  }

  /**
   * @param items for each slot the position of its row before sorting, or -1
   * @param filler the found row that is in every other slot; undefined where none was found
   * @returns whether they are others than before
   */
  setSlots(items: Int32Array, filler: number | undefined): boolean {
    const before = this.slots?.items;
    if (before?.length === items.length && items.every((item, i) => item === before[i])) return false;
    this.slots = { items, filler };
    return true;
  }

  /** The items of one of its lists, in the order that was set, or as they are before sorting. */
  itemsOf(place: BoundPlace, unsorted = false): ListItems {
    const { indexes, outs, strangers } = this;
    const found = foundItems(place.list);
    const count = found?.count ?? 0;
    const order = unsorted ? undefined : (this.slots?.items ?? this.order);
    const rows: number[] = [];
    const fresh: FreshItem[] = [];
    for (let k = 0; k < (order ?? outs).length; k++) {
      const i = order?.[k] ?? k;
      if (i < 0) {
        const { filler } = this.slots!;
        rows.push(filler === undefined ? -fresh.push({ key: `free slot ${k}` }) : found!.row(filler));
        continue;
      }
      const index = indexes[i]!;
      if (index >= 0) {
        if (index < count) rows.push(found!.row(index));
        continue;
      }
      const out = outs[i]!;
      const item = out >= 0 ? { key: `${place.role}${Math.max(0, place.beside)}:${out}`, out } : strangers.get(i)!;
      rows.push(-fresh.push(item));
    }
    // A list beside may go on where the rows of the entries have ended.
    const primary = foundItems(this.places[0]!.list)?.count ?? 0;
    if (place.role === 'beside') for (let i = primary; i < count; i++) rows.push(found!.row(i));
    return { rows: Int32Array.from(rows), fresh };
  }
}
