/** Whether entries can be added under their paths: no two entries may be one to the game. */
import { FormatError } from '../../../faults';
import { keyOfHash, pathHashing } from '../../read/path-hashes';
import type { DraftSetting } from '../model/draft';
import type { Edits } from './edits';

/**
 * @throws FormatError `conflict` when a path is added that is there, or is added twice, or has the hash by which the game
 *   finds another one
 */
export function checkPathsAreFree(setting: DraftSetting, edits: Edits): void {
  const { archive, recipe } = setting;
  const { add } = edits;
  if (add.length === 0) return;
  const taken = (path: string, what: string, hint: string): FormatError =>
    new FormatError({ code: 'conflict', recipe: recipe.id, entry: path, what, hint });
  const added = new Set<string>();
  for (const { path } of add) {
    if (added.has(path)) throw taken(path, 'the same path is added twice', 'Add one of the two.');
    added.add(path);
  }
  for (const entry of staying(setting, edits)) {
    const path = archive!.entries.path(entry);
    if (added.has(path)) throw taken(path, 'there is an entry of this path already', 'Replace the entry instead.');
  }
  const { hash, hashing } = recipe.entries;
  if (hash === undefined || hashing === undefined) return;
  const hashOf = archive?.hashes?.hashOf ?? pathHashing(hashing);
  const byHash = new Map<string | number, string>();
  const same = (path: string, other: string) =>
    taken(path, `the game finds it by the same hash as ${other}`, 'Give it another name, or replace the other entry.');
  for (const { path } of add) {
    const key = keyOfHash(hashOf(path));
    const other = byHash.get(key);
    if (other !== undefined) throw same(path, other);
    byHash.set(key, path);
  }
  for (const entry of staying(setting, edits)) {
    const path = byHash.get(keyOfHash(archive!.entries.hash(entry)));
    if (path !== undefined) throw same(path, archive!.entries.path(entry));
  }
}

/** Entries of the archive that are there afterwards. */
function* staying({ archive }: DraftSetting, { remove }: Edits): Generator<number> {
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++)
    if (!remove.has(entry) && !archive!.entries.isDeleted(entry)) yield entry;
}
