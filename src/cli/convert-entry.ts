/** Entries of an open archive, as the forms read them. */
import { collect } from '../core/bytes';
import { LimitError } from '../core/faults';
import { CONVERTERS, type EntryToConvert } from '../core/forms';
import { readEntry, type Archive, type Recipe } from '../core/recipe';
import { filmConverter } from './convert-film';
import { soundConverter } from './convert-sound';

/** All forms that entries are converted by. */
export const ALL_CONVERTERS = [...CONVERTERS, soundConverter, filmConverter] as const;

/**
 * @param pathOf the path that an entry is known by
 * @param most entries of more bytes are not held in memory: reading one is a fault
 */
export function entriesToConvert(
  archive: Archive,
  pathOf: (entry: number) => string,
  recipes: readonly Recipe[],
  most = Infinity,
): (n: number) => Promise<EntryToConvert> {
  const { entries } = archive;
  let byPath: Map<string, number> | undefined;
  const companion = async (path: string) => {
    byPath ??= new Map(Array.from({ length: entries.count }, (_, n) => [pathOf(n), n]));
    const n = byPath.get(path);
    return n === undefined ? undefined : collect(readEntry(archive, n));
  };
  return async (n) => {
    let read: Promise<Uint8Array> | undefined;
    const bytes = () => (read ??= collectAtMost(readEntry(archive, n), most, pathOf(n)));
    return { listed: { archive, n }, path: pathOf(n), head: await headOf(archive, n), bytes, recipes, companion };
  };
}

/** @throws LimitError when there are more than `most` bytes */
async function collectAtMost(chunks: AsyncIterable<Uint8Array>, most: number, entry: string): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  let length = 0;
  for await (const chunk of chunks) {
    length += chunk.length;
    if (length > most)
      throw new LimitError({
        code: 'limit-reached',
        entry,
        limit: `bytes of an entry that a file is converted for, ${most.toLocaleString('en')}`,
      });
    pieces.push(chunk);
  }
  return collect(pieces);
}

const HEAD_BYTES = 512;

async function headOf(archive: Archive, entry: number): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  let length = 0;
  // Whether the checksum agrees is found when all of it is read.
  for await (const chunk of readEntry(archive, entry, { verify: false })) {
    pieces.push(chunk);
    if ((length += chunk.length) >= HEAD_BYTES) break;
  }
  return (await collect(pieces)).subarray(0, HEAD_BYTES);
}
