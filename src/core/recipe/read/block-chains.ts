/** How the blocks of all entries hang together. */
import { knownBlocks } from './entry-bytes';
import type { OpenedArchive } from './opened-archive';

/** For each block of all entries where it lies, and where the one behind it does; the last one leads to itself. */
export function chainsOf(archive: OpenedArchive | undefined): ReadonlyMap<number, number> {
  const chains = new Map<number, number>();
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    if (archive!.entries.isDeleted(entry)) continue;
    const places = knownBlocks(archive!, entry).map(({ at, place }) => place ?? archive!.entries.at(entry) + at);
    for (const [i, place] of places.entries()) chains.set(place, places[i + 1] ?? place);
  }
  return chains;
}

/** For each number in the table of blocks, how many blocks of entries it is. */
export function blockUsesOf(archive: OpenedArchive | undefined): ReadonlyMap<number, number> {
  const uses = new Map<number, number>();
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    if (archive!.entries.isDeleted(entry)) continue;
    for (const { number } of knownBlocks(archive!, entry)) uses.set(number, (uses.get(number) ?? 0) + 1);
  }
  return uses;
}
