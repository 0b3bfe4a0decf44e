/** Which letters the fonts of a game lack for the texts of a table, with their changes. */
import { QueryTypes } from 'sequelize';
import { lettersOf, missingLetters } from '../../core/forms/font';
import { isFaultError, sayFault } from '../../core/faults';
import { entryBytes, kept, winnerBytes } from '../content';
import { database } from '../database';
import { fontOf } from '../forms';
import type { FontGaps, FontGapsAnswer, WordsPair } from '../shapes';
import { linesNow } from './word-lines';

/** Fonts of a game that are looked at. */
const MOST_FONTS = 40;
/** Missing letters of one font that are listed. */
const MOST_LISTED = 60;

/** @returns the fonts that lack letters or cannot be read first, those with more characters before the others */
export async function listFontGaps(gameId: number, pair: WordsPair): Promise<FontGapsAnswer> {
  const [lines, all] = await Promise.all([linesNow(gameId, pair), fontsOf(gameId)]);
  const fonts = all.slice(0, MOST_FONTS);
  const letters = lettersOf(lines.flatMap(({ key, text }) => (text === null ? [] : [{ key, text }])));
  const gaps: FontGaps[] = [];
  for (const font of fonts) {
    try {
      const codePoints = await codePointsOf(gameId, font);
      const missing = missingLetters(codePoints, letters);
      gaps.push({
        ...font,
        characters: codePoints.length,
        count: missing.length,
        missing: missing.slice(0, MOST_LISTED),
        trouble: null,
      });
    } catch (error) {
      if (!isFaultError(error)) throw error;
      gaps.push({ ...font, characters: 0, count: 0, missing: [], trouble: sayFault(error.fault) });
    }
  }
  gaps.sort((a, b) => Number(isFine(a)) - Number(isFine(b)) || b.characters - a.characters);
  return { fonts: gaps, unchecked: all.length - fonts.length };
}

const isFine = ({ count, trouble }: FontGaps): boolean => count === 0 && trouble === null;

interface FontEntry {
  readonly archive: number;
  readonly n: number;
  readonly path: string;
}

function fontsOf(gameId: number): Promise<FontEntry[]> {
  return database().query<FontEntry>(
    `select archive_id as archive, n, path from entries
     where game_id = $1 and kind = 'font' and wins and not deleted order by path`,
    { bind: [gameId], type: QueryTypes.SELECT },
  );
}

/** Kept by what the archive and the entry are: reading a large font takes a moment. */
async function codePointsOf(gameId: number, { archive, n, path }: FontEntry): Promise<readonly number[]> {
  const json = await kept(archive, n, 'letters.json', async () => {
    const companion = (other: string) => winnerBytes(gameId, other);
    const font = await fontOf({ gameId, path, bytes: async () => (await entryBytes(archive, n)).bytes, companion });
    return Buffer.from(JSON.stringify(font.codePoints));
  });
  return JSON.parse(Buffer.from(json).toString()) as number[];
}
