/** Entries of an open archive, as the forms read them. */
import { collect } from '../core/bytes';
import { CONVERTERS, type EntryToConvert } from '../core/forms';
import { readEntry, type Archive, type Recipe } from '../core/recipe';
import { soundConverter } from './convert-sound';

/** All forms that entries are converted by. */
export const ALL_CONVERTERS = [...CONVERTERS, soundConverter] as const;

/** @param pathOf the path that an entry is known by */
export function entriesToConvert(
  archive: Archive,
  pathOf: (entry: number) => string,
  recipes: readonly Recipe[],
): (n: number) => Promise<EntryToConvert> {
  const { entries } = archive;
  let byPath: Map<string, number> | undefined;
  const beside = async (path: string) => {
    byPath ??= new Map(Array.from({ length: entries.count }, (_, n) => [pathOf(n), n]));
    const n = byPath.get(path);
    return n === undefined ? undefined : collect(readEntry(archive, n));
  };
  return async (n) => {
    const bytes = () => collect(readEntry(archive, n));
    return { archive, n, path: pathOf(n), head: await headOf(archive, n), bytes, recipes, beside };
  };
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
