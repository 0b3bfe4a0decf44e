/** Entries that a patch takes along: the game reads what it changes only together with them. */
import { bufferSource, collect } from '../../../bytes';
import { truthy } from '../../formula/value';
import type { Layout } from '../../model';
import { entryScope, readEntry } from '../../read/entry-bytes';
import type { MadeSetting } from './made';
import type { Edits } from './edits';

/** @returns the edits of a patch with those that go along, which keep their bytes; those of any other layout as they are */
export async function withTogether(
  { archive, recipe, signal }: MadeSetting,
  edits: Edits,
  layout: Layout,
): Promise<Edits> {
  const rule = recipe.entries.together;
  if (rule === undefined || archive === undefined || layout !== 'patch') return edits;
  const { entries } = archive;
  const groupOf = (entry: number): string | undefined => {
    const group = rule.group.evaluate(entryScope(archive, entry));
    return typeof group === 'string' && group !== '' ? group : undefined;
  };
  const goesAlong = (entry: number) => truthy(rule.along.evaluate(entryScope(archive, entry)));
  const isChanged = (entry: number) => edits.replace.has(entry) || edits.remove.has(entry);
  const folders = new Set(edits.add.map(({ path }) => folderOf(path)).filter((folder) => folder !== ''));
  const groups = new Set<string>();
  for (let entry = 0; entry < entries.count; entry++)
    if (isChanged(entry) || folders.has(folderOf(entries.path(entry)))) groups.add(groupOf(entry) ?? '');
  groups.delete('');
  if (groups.size === 0) return edits;
  const replace = new Map(edits.replace);
  const remove = new Set(edits.remove);
  // A group of which nothing stays is not in the patch at all: only a deletion marker can say that it is gone.
  const staying = new Set<string>();
  for (let entry = 0; entry < entries.count; entry++)
    if (!entries.isDeleted(entry) && !edits.remove.has(entry) && goesAlong(entry)) staying.add(groupOf(entry) ?? '');
  for (let entry = 0; entry < entries.count; entry++) {
    if (entries.isDeleted(entry) || edits.replace.has(entry)) continue;
    const group = groupOf(entry) ?? '';
    if (!groups.has(group) || !staying.has(group) || !goesAlong(entry)) continue;
    // What is left out of a group that goes along is gone: the patch holds all that the game reads of it.
    if (remove.delete(entry)) continue;
    const bytes = await collect(readEntry(archive, entry, { signal }));
    replace.set(entry, bufferSource(bytes, entries.path(entry)));
  }
  return { ...edits, replace, remove };
}

const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));
