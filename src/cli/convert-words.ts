/** A table of texts as one file for translators. */
import { basename } from 'node:path';
import { WORD_FILES, wordTable, writeWords, type WordFile, type WordTable } from '../core/forms/words';
import type { Archive } from '../core/recipe';

/** The first of the wanted formats that is one of texts. */
export const wordFormat = (formats: readonly string[]): WordFile | undefined =>
  formats.find((format): format is WordFile => (WORD_FILES as readonly string[]).includes(format));

export interface WordsTaken {
  /** What the file is called: as the archive, with the ending of the format. */
  readonly name: string;
  readonly bytes: Uint8Array;
  readonly texts: number;
}

/**
 * @param chosen the entries that are wanted
 * @returns undefined when the archive is no table of texts
 * @throws FormatError when a text cannot be read
 */
export async function wordsTaken(
  archive: Archive,
  chosen: readonly number[],
  as: WordFile,
): Promise<WordsTaken | undefined> {
  const table: WordTable | undefined = await wordTable(archive);
  if (table === undefined) return undefined;
  const wanted = new Set(chosen);
  const texts = [...table.texts].filter(([, { n }]) => wanted.has(n));
  const rows = texts.map(([key, { text }]) => ({ key, source: null, text }));
  return {
    name: `${basename(archive.source.name).replace(/\.[^.]*$/, '')}.${as}`,
    bytes: Buffer.from(writeWords(rows, as, table.locale)),
    texts: rows.length,
  };
}
