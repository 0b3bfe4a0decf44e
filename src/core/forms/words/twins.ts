/** Texts with one source: what is translated once need not be translated again. */
import type { WordEdit } from './words';

export interface TwinRow {
  readonly key: string;
  readonly source: string | null;
  readonly text: string | null;
  /** No one has worked on it. */
  readonly left: boolean;
}

/** The texts that are left and whose source has a text elsewhere; the first of several holds. */
export function twinsOf(rows: readonly TwinRow[]): WordEdit[] {
  const known = new Map<string, string>();
  for (const { source, text, left } of rows)
    if (source !== null && text !== null && !left && !known.has(source)) known.set(source, text);
  return rows.flatMap(({ key, source, left }) => {
    const text = source === null || !left ? undefined : known.get(source);
    return text === undefined ? [] : [{ key, text }];
  });
}
