/** Tables beside the rows of the entries whose rows say by a number which entry they belong to. */
import type { Draft } from '../model/draft';
import type { BoundPlace } from './bound-places';
import { foundItems, type FoundList, type FreshItem, type ListItems } from './list-items';

export interface NumberedItems {
  readonly items: ListItems;
  /** For each item its place among the rows that were found, or -1. */
  readonly indexes: Int32Array;
}

/**
 * The rows of a numbered table in the new file: those that were found but for the ones of removed entries, then one for
 * each added entry.
 */
export function numberedItems(draft: Draft, place: BoundPlace, added: readonly number[]): NumberedItems {
  const { archive } = draft.setting;
  const found = foundItems(place.list);
  const rows: number[] = [];
  const indexes: number[] = [];
  const fresh: FreshItem[] = [];
  for (let i = 0; i < (found?.count ?? 0); i++) {
    const row = found!.row(i);
    const entry = archive?.entries.entryBeside(place.beside, row) ?? -1;
    if (entry >= 0 && draft.outOf(entry) < 0) continue;
    rows.push(row);
    indexes.push(i);
  }
  for (const out of added) {
    rows.push(-fresh.push({ key: `beside${place.beside}:${out}`, out }));
    indexes.push(-1);
  }
  return { items: { rows: Int32Array.from(rows), fresh }, indexes: Int32Array.from(indexes) };
}

/**
 * @param slots for each slot the position of its item, or -1
 * @param filler the found row that is in every other slot; undefined where none was found
 */
export function inSlots(
  { rows, fresh }: ListItems,
  slots: Int32Array,
  list: FoundList | undefined,
  filler: number | undefined,
): ListItems {
  const all = [...fresh];
  const found = foundItems(list);
  const free = (slot: number) => (filler === undefined ? -all.push({ key: `free slot ${slot}` }) : found!.row(filler));
  return { rows: Int32Array.from(slots, (item, slot) => (item < 0 ? free(slot) : rows[item]!)), fresh: all };
}
