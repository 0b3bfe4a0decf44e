/** What a game expects back in place of a font, and whether another one is that. */
import type { Note } from '../../notes';
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

/** What a game that has `original` may not accept of `own`; nothing when it covers no less, in the same kind of outlines. */
export function compareFonts(original: Font, own: Font): Note[] {
  const notes: Note[] = [];
  const has = new Set(own.codePoints);
  const lost = original.codePoints.filter((one) => !has.has(one));
  if (lost.length > 0) notes.push({ code: 'font-lacks', count: lost.length, letters: letterList(lost) });
  if (original.outlines !== own.outlines)
    notes.push({ code: 'font-outlines', yours: own.outlines, original: original.outlines });
  const [before, after] = [original.lineHeight, own.lineHeight];
  if (Math.abs(after - before) > before * 0.1) notes.push({ code: 'font-line-height', yours: after, original: before });
  return notes;
}
