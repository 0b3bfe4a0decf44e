/** Which entries a text found inside another represents. */
import { lowerBound, pathOf, WINS, type Columns } from './columns';

/** A text without an ending may represent several files side by side, such as a picture and its heights. */
const MOST_OF_STEM = 8;

/**
 * A text represents an entry when it is its path, the path without its ending, or either seen from `folder`. In binary files
 * the length of a text may be right before it and look like its first letter: it is tried without it as well.
 *
 * @returns paths, each once
 */
export function resolveTexts(columns: Columns, texts: readonly string[], folder: string): string[] {
  const found = new Set<string>();
  const inside = folder === '' ? '' : `${folder}/`;
  for (const text of texts) {
    const ways = [text, inside + text, text.slice(1)];
    for (const way of ways) {
      const rows = rowsFor(columns, way);
      if (rows.length === 0) continue;
      for (const row of rows) found.add(pathOf(columns, row));
      break;
    }
  }
  return [...found];
}

function rowsFor(columns: Columns, text: string): number[] {
  if (text.length < 3) return [];
  const { paths, pathAt, count, flags } = columns;
  const exact = Buffer.from(text);
  const at = lowerBound(columns, exact);
  for (let row = at; row < count && paths.compare(exact, 0, exact.length, pathAt[row], pathAt[row + 1]) === 0; row++)
    if ((flags[row]! & WINS) !== 0) return [row];
  // A name alone, without an ending, is any word of any text.
  if (!text.includes('/')) return [];
  const stem = Buffer.from(`${text}.`);
  const rows: number[] = [];
  for (let row = lowerBound(columns, stem); row < count && rows.length < MOST_OF_STEM; row++) {
    const start = pathAt[row]!;
    if (pathAt[row + 1]! - start < stem.length || paths.compare(stem, 0, stem.length, start, start + stem.length) !== 0)
      break;
    if ((flags[row]! & WINS) !== 0) rows.push(row);
  }
  return rows;
}
