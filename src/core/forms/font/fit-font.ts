/** What a game expects back in place of a font, and whether another one is that. */
import { letterList } from './letter-list';
import type { Font } from './font';

/** What a replacement has to keep, in sentences. */
export function sayFontExpectation({ packing, outlines, codePoints, fixedSize }: Font): string[] {
  const container =
    fixedSize === undefined ? `A font in ${packing}, with ${outlines} outlines` : `A font in ${packing}`;
  return [
    `${container}. It has ${codePoints.length.toLocaleString('en')} characters; one that lacks some of them says which.`,
  ];
}

/** What a game that has `original` may not like of `own`, in sentences; none when it covers no less, in the same kind of outlines. */
export function compareFonts(original: Font, own: Font): string[] {
  const notes: string[] = [];
  const has = new Set(own.codePoints);
  const lost = original.codePoints.filter((one) => !has.has(one));
  if (lost.length > 0)
    notes.push(`It lacks ${lost.length.toLocaleString('en')} characters that the original has: ${letterList(lost)}.`);
  if (original.outlines !== own.outlines)
    notes.push(
      `Its outlines are ${own.outlines}, those of the original ${original.outlines}: some games read only one.`,
    );
  const [before, after] = [original.lineHeight, own.lineHeight];
  if (Math.abs(after - before) > before * 0.1)
    notes.push(`Its lines are ${percent(after)} of its size apart, those of the original ${percent(before)}.`);
  return notes;
}

const percent = (of: number): string => `${Math.round(of * 100)} %`;
