/** The folders of the new file: those that stay, those that added entries need, and those that go with their last entry. */
import type { FoldersRule, Recipe } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { itemsOf, ShapeColumn, type Column } from '../../read/columns';
import type { FolderTable } from '../../read/folder-table';
import { walk } from '../../read/rows';
import type { DraftEntries, DraftSetting } from '../model/draft';
import { pathTo } from './carriers';

/** A folder of the new file; `base` is its index in the old one. */
export interface DraftFolder {
  readonly base: number | undefined;
  readonly path: string;
  readonly name: string;
  /** Index of the folder above, or -1. */
  readonly parent: number;
}

export interface DraftFolders {
  readonly folders: readonly DraftFolder[];
  /** The folder of each entry, or -1. */
  readonly folderOf: Int32Array;
  /** What became of a folder that was found: its index now, or -1. */
  indexOf(base: number): number;
}

export const NO_FOLDERS: DraftFolders = { folders: [], folderOf: new Int32Array(0), indexOf: () => -1 };

/** @param pathOf the path of each entry of the new file */
export function draftFolders(
  { recipe, archive }: DraftSetting,
  entries: DraftEntries,
  pathOf: (out: number) => string,
): DraftFolders {
  const rule = recipe.entries.folders;
  if (rule === undefined) return NO_FOLDERS;
  const folderOf = new Int32Array(entries.count).fill(-1);
  const old = archive?.folders;
  const gone = old === undefined || entries.removes !== true ? undefined : emptied(archive!, old, rule, entries);
  const folders: DraftFolder[] = [];
  const byPath = new Map<string, number>();
  const indexes = new Int32Array(old?.count ?? 0).fill(-1);
  for (let i = 0; i < indexes.length; i++) if (gone?.has(i) !== true) indexes[i] = i - countBelow(gone, i);
  const add = (folder: DraftFolder) => {
    folders.push(folder);
    if (!byPath.has(folder.path)) byPath.set(folder.path, folders.length - 1);
    return folders.length - 1;
  };
  for (let i = 0; i < indexes.length; i++) {
    if (indexes[i]! < 0) continue;
    const { path, name, parent } = old!.facts(i);
    add({ base: i, path, name, parent: parent < 0 ? -1 : indexes[parent]! });
  }
  const chained = rule.path === undefined;
  const hasTop = byPath.has('') || topHasRow(recipe, rule, archive);
  const need = (path: string): number => {
    const known = byPath.get(path);
    if (known !== undefined) return known;
    if (path === '' && !hasTop) return -1;
    const slash = path.lastIndexOf('/');
    const parent = !chained || path === '' ? -1 : need(slash < 0 ? '' : path.slice(0, slash));
    return add({ base: undefined, path, name: path.slice(slash + 1), parent });
  };
  if (archive === undefined && chained && hasTop) need('');
  for (let out = 0; out < entries.count; out++) {
    const base = entries.base(out);
    const path = pathOf(out);
    if (base === undefined) folderOf[out] = need(path.slice(0, Math.max(0, path.lastIndexOf('/'))));
    else {
      const folder = archive!.entries.folder(base);
      folderOf[out] = folder < 0 ? -1 : indexes[folder]!;
    }
  }
  return { folders, folderOf, indexOf: (base) => indexes[base] ?? -1 };
}

/** Whether entries at the top lie in a folder with a row of its own, as far as recipe and archive tell. */
function topHasRow(recipe: Recipe, rule: FoldersRule, archive: OpenedArchive | undefined): boolean {
  if (rule.top !== undefined) return rule.top === 'row';
  if (rule.each.anywhere) {
    const { holds } = recipe.regions[rule.each.region]!;
    return (
      typeof holds === 'object' &&
      holds.type.kind === 'shape' &&
      pathTo(holds.type.shape, rule.each.shape) !== undefined
    );
  }
  // Where there is anything at all, a row of the top would have been found.
  return archive === undefined || archive.entries.count + (archive.folders?.count ?? 0) === 0;
}

function countBelow(gone: ReadonlySet<number> | undefined, index: number): number {
  if (gone === undefined) return 0;
  let count = 0;
  for (const one of gone) if (one < index) count++;
  return count;
}

/**
 * Folders whose last entry is removed. They go where the format was found to have no empty ones, unless they hold
 * something else.
 */
function emptied(archive: OpenedArchive, old: FolderTable, rule: FoldersRule, entries: DraftEntries): Set<number> {
  const gone = new Set<number>();
  const children = new Int32Array(old.count);
  for (let i = 0; i < old.count; i++) if (old.parent(i) >= 0) children[old.parent(i)]!++;
  const isTop = (i: number) => old.parent(i) < 0 && (rule.each.anywhere || old.path(i) === '');
  const wasEmpty = (i: number) => old.counts[i] === 0 && children[i] === 0;
  for (let i = 0; i < old.count; i++) if (wasEmpty(i) && !isTop(i)) return gone;
  const left = Float64Array.from({ length: old.count }, (_, i) => old.counts[i]!);
  const stays = new Set<number>();
  for (let out = 0; out < entries.count; out++) {
    const base = entries.base(out);
    if (base !== undefined) stays.add(base);
  }
  const touched = new Set<number>();
  for (let entry = 0; entry < archive.entries.count; entry++) {
    const folder = archive.entries.folder(entry);
    if (stays.has(entry) || folder < 0) continue;
    left[folder]!--;
    touched.add(folder);
  }
  for (const start of touched) {
    for (let i = start; i >= 0 && left[i] === 0 && children[i] === 0 && !isTop(i) && !gone.has(i);) {
      if (rule.each.anywhere && holdsOthers(archive, old, rule, i)) break;
      gone.add(i);
      i = old.parent(i);
      if (i >= 0) children[i]!--;
    }
  }
  return gone;
}

/** True when a folder that nests holds items that are neither entries nor folders. */
function holdsOthers({ entries, recipe }: OpenedArchive, old: FolderTable, rule: FoldersRule, folder: number): boolean {
  const row = old.row(folder);
  return old.table.shape.fields.some(({ index }) => {
    const column = old.table.columns[index]!;
    return itemsInside(column, row).some(({ column: item, at }) => {
      let belongs = false;
      walk(
        item,
        at,
        (table, inner) => {
          belongs ||= table.shape === rule.each.shape;
          belongs ||= table.shape === recipe.entries.each.shape && entries.entryOfRow(inner) >= 0;
        },
        undefined,
        -1,
      );
      return !belongs;
    });
  });
}

function itemsInside(column: Column, row: number): { column: Column; at: number }[] {
  const items = itemsOf(column, row);
  if (items === undefined || !(items.column instanceof ShapeColumn)) return [];
  return Array.from({ length: items.count }, (_, i) => ({ column: items.column, at: items.first + i }));
}
