/** Files no recipe knows, with what was found in them as their entries. */
import { FOUND_RECIPE, foundRecipe, listingTable, type ListedBytes } from '../../core/carve';
import { bufferSource, type ByteSource } from '../../core/bytes';
import { openFile } from '../../core/bytes/node';
import type { TextRun } from '../../core/inside';
import { openArchive } from '../../core/recipe';
import type { ArchiveModel, FoundInside } from '../database';
import { blobPath, keepBytes } from '../storage';
import { archiveFile } from './archive-access';
import { bandsOf } from './bands';
import { settleWinners, writeEntries } from './entry-index';

interface IndexOrder {
  readonly facts: Omit<FoundInside, 'table'>;
  readonly listed: readonly ListedBytes[];
  readonly signal: AbortSignal;
}

/** Writes what was found as the entries of its file. @returns how many there are */
export async function indexFound(
  row: ArchiveModel,
  source: ByteSource,
  { facts, listed, signal }: IndexOrder,
): Promise<number> {
  if (listed.length === 0) {
    await row.update({ found: { ...facts, table: null } });
    return 0;
  }
  const bytes = listingTable(listed);
  const table = bufferSource(bytes, row.path);
  const archive = await openArchive(foundRecipe(), [table, source], { signal });
  // The bands of the file alone: the table is ours.
  const bands = (await bandsOf(row.gameId, archive, signal))
    .map((band) => ({ ...band, at: band.at - table.size }))
    .filter(({ at }) => at >= 0);
  await row.update({
    found: { ...facts, table: (await keepBytes(bytes)).sha256 },
    recipe: FOUND_RECIPE,
    bands,
  });
  const { entries, methods } = await writeEntries(row, archive, signal);
  await row.update({ entryCount: entries, methods });
  return entries;
}

/** Makes a text in a file an entry of it, unless it is one. @returns its number among them */
export async function takeUpText(row: ArchiveModel, { at, length }: TextRun): Promise<number> {
  const source = await openFile(await archiveFile(row), row.path);
  try {
    const { table, ...facts } = row.found ?? { kinds: {}, randomness: [], table: null, notYetCarved: true as const };
    const listed = table === null ? [] : await listedIn(table, source);
    const path = `words/${at.toString(16).padStart(8, '0')}.txt`;
    const known = listed.findIndex((one) => one.path === path && one.stored === length);
    if (known >= 0) return known;
    const text: ListedBytes = { path, at, stored: length, size: length, method: 'stored' };
    // One of another length was cut otherwise: it makes way.
    const others = listed.filter((one) => one.path !== path);
    const texts = [...(facts.texts ?? []).filter((one) => one.path !== path), text];
    const kinds = { ...facts.kinds, words: texts.length };
    await indexFound(row, source, {
      facts: { ...facts, kinds, texts },
      listed: [...others, text],
      signal: new AbortController().signal,
    });
    await settleWinners(row.gameId);
    return others.length;
  } finally {
    await source.close();
  }
}

async function listedIn(table: string, file: ByteSource): Promise<ListedBytes[]> {
  const source = await openFile(blobPath(table), file.name);
  try {
    const { entries } = await openArchive(foundRecipe(), [source, file]);
    return Array.from({ length: entries.count }, (_, n) => ({
      path: entries.path(n),
      at: entries.at(n),
      stored: entries.stored(n),
      size: entries.size(n),
      method: entries.method(n) as ListedBytes['method'],
    }));
  } finally {
    await source.close();
  }
}
