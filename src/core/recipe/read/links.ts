/** Entries that are links: their bytes are those of another entry, found by its path. */
import type { ByteSource } from '../../bytes';
import type { OpenedArchive } from './opened-archive';
import { readEntry, storedSource, type ReadEntryOptions } from './entry-bytes';
import type { EntryTable } from './entry-table';
import { normalPath } from './linked-path';

/** Links that lead to links are followed this far, as Linux does; POSIX asks for at least 8 (_POSIX_SYMLOOP_MAX). */
const MOST_HOPS = 40;

/** Entries with bytes by their normalized paths; made when the first link is followed. */
const PATHS = new WeakMap<EntryTable, ReadonlyMap<string, number>>();

/**
 * The entry that has the bytes of an entry.
 *
 * @returns the entry itself when it is no link; undefined for a link to a folder, out of the archive, or in a circle
 */
export function followLink({ entries }: Pick<OpenedArchive, 'entries'>, entry: number): number | undefined {
  let at = entry;
  for (let hops = 0; hops <= MOST_HOPS; hops++) {
    const to = entries.link(at);
    if (to === undefined) return at;
    const next = pathsOf(entries).get(to);
    if (next === undefined) return undefined;
    at = next;
  }
  return undefined;
}

/** Entries that links lead to. */
export function linkTargets({ entries, recipe }: Pick<OpenedArchive, 'entries' | 'recipe'>): ReadonlySet<number> {
  const targets = new Set<number>();
  if (recipe.entries.link === undefined) return targets;
  for (let n = 0; n < entries.count; n++) {
    const target = entries.link(n) === undefined ? undefined : followLink({ entries }, n);
    if (target !== undefined) targets.add(target);
  }
  return targets;
}

/**
 * Bytes that {@link readLinked} gives of an entry: the size of what a link leads to. Limits on what is read ask for this one;
 * the table of entries says that a link itself has none.
 *
 * @returns NaN when it is known only after unpacking
 */
export const entrySize = (archive: OpenedArchive, entry: number): number =>
  archive.entries.size(followLink(archive, entry) ?? entry);

/** The plain bytes of an entry, or of the entry it links to. A link that leads to none has no bytes. */
export const readLinked = (
  archive: OpenedArchive,
  entry: number,
  options: ReadEntryOptions = {},
): AsyncGenerator<Uint8Array> => readEntry(archive, followLink(archive, entry) ?? entry, options);

/** The stored bytes of an entry, or of the entry it links to. @throws FormatError `outside-file`, `volume-missing` */
export const storedLinked = (archive: OpenedArchive, entry: number): ByteSource =>
  storedSource(archive, followLink(archive, entry) ?? entry);

function pathsOf(entries: EntryTable): ReadonlyMap<string, number> {
  const known = PATHS.get(entries);
  if (known !== undefined) return known;
  const paths = new Map<string, number>();
  for (let n = 0; n < entries.count; n++)
    if (!entries.isDeleted(n) && !entries.isDirectory(n)) paths.set(normalPath(entries.path(n)), n);
  PATHS.set(entries, paths);
  return paths;
}
