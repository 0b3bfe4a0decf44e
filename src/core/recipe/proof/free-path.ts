/** Paths for entries that are added to see whether they can be: as like those that are there as may be. */
import type { EntryTable } from '../read/entry-table';

const LETTERS = [...'qxz0123456789abcdefghijklmnoprstuvwy'];
const DIGITS = [...'0123456789'];

/** A path beside that of an entry, of the same length where there is one. */
export function freePath(entries: EntryTable, entry: number): string {
  const path = pathLike(entries, entry);
  const start = path.lastIndexOf('/') + 1;
  const dot = path.lastIndexOf('.');
  const end = dot > start ? dot : path.length;
  const taken = takenPaths(entries);
  for (const letters of endings(end - start, path[end - 1])) {
    const made = path.slice(0, end - letters.length) + letters + path.slice(end);
    if (!taken.has(made.toLowerCase())) return made;
  }
  return `${path.slice(0, start)}new-${path.slice(start)}`;
}

/** A path in a folder that is not there yet. */
export function freePathInNewFolder(entries: EntryTable, entry: number): string {
  const path = pathLike(entries, entry);
  const slash = path.indexOf('/');
  const taken = takenPaths(entries);
  for (const letters of endings(slash < 0 ? 2 : slash)) {
    const folder = slash < 0 ? letters : path.slice(0, slash - letters.length) + letters;
    // A path without folders makes room for one: its field may be full.
    const name = slash < 0 && path.length > folder.length + 1 ? path.slice(folder.length + 1) : path.slice(slash + 1);
    if (!taken.has(folder.toLowerCase())) return `${folder}/${name}`;
  }
  return `new-folder/${path.slice(slash + 1)}`;
}

/** What no one can name is no example. */
function pathLike(entries: EntryTable, entry: number): string {
  return entries.isNamed(entry) ? entries.path(entry) : 'added/entry-0.bin';
}

/** One letter or two, to be at the end of a name of so many; digits first in place of a digit, for the name may be a number. */
function* endings(most: number, instead = ''): Generator<string> {
  if (most >= 1 && DIGITS.includes(instead)) yield* DIGITS;
  if (most >= 2 && DIGITS.includes(instead))
    for (const first of DIGITS) for (const second of DIGITS) yield first + second;
  if (most >= 1) yield* LETTERS;
  if (most >= 2) for (const first of LETTERS) for (const second of LETTERS) yield first + second;
}

/** All paths and folders, in small letters: games often take both for the same. */
function takenPaths(entries: EntryTable): ReadonlySet<string> {
  const taken = new Set<string>();
  for (let i = 0; i < entries.count; i++) {
    const path = entries.path(i).toLowerCase();
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) taken.add(path.slice(0, at));
    taken.add(path);
  }
  return taken;
}
