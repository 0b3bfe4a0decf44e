/** The table of blocks, where one holds those of all entries. */
import type { Draft } from '../model/draft';
import type { BoundPlace } from './bound-places';
import { foundItems, type FreshItem, type ListItems } from './list-items';

/** Blocks of entries in the order in which they lie in the table: those that were found, and those of new bytes. */
export function blockItems(draft: Draft, place: BoundPlace): ListItems {
  const { archive } = draft.setting;
  const found = foundItems(place.list);
  const rows: number[] = [];
  const outs: number[] = [];
  const blocks: number[] = [];
  const fresh: FreshItem[] = [];
  for (const out of draft.blockOrder()) {
    const base = draft.entries.base(out);
    const stays = base !== undefined && draft.entries.fresh(out) === undefined && archive !== undefined;
    for (const [block, { number }] of draft.blocks(out).entries()) {
      rows.push(stays ? found!.row(number) : -fresh.push({ key: `blocks:${out}/${block}`, out, block }));
      outs.push(out);
      blocks.push(block);
    }
  }
  const owners = { outs: Int32Array.from(outs), blocks: Int32Array.from(blocks) };
  return { rows: Int32Array.from(rows), fresh, owners };
}

/** The items of a table of folders. */
export function folderItems(draft: Draft, place: BoundPlace): ListItems {
  const { archive } = draft.setting;
  const found = foundItems(place.list);
  const rows: number[] = [];
  const fresh: FreshItem[] = [];
  for (let i = 0; i < (found?.count ?? 0); i++) {
    const row = found!.row(i);
    if (archive?.folders === undefined || !draft.isFolderGone(row)) rows.push(row);
  }
  for (const [folder, { base }] of draft.folders.entries())
    if (base === undefined) rows.push(-fresh.push({ key: `folder:${folder}`, folder }));
  return { rows: Int32Array.from(rows), fresh };
}
