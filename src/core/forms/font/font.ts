/** A font as a game draws texts with it: outlines of any size, or pictures of letters of one size. */
import { LimitError } from '../../faults';
import type { Pixels } from '../picture';

export interface Font {
  /** How it is packed, such as `TrueType`, `WOFF2` or the title of a recipe. */
  readonly packing: string;
  readonly outlines: 'TrueType' | 'CFF' | 'none';
  readonly family: string;
  readonly style: string;
  readonly glyphs: number;
  /** Unicode code points it has a glyph for, ascending. */
  readonly codePoints: readonly number[];
  /** The only size it is drawn at, in pixels; undefined for outlines. */
  readonly fixedSize: number | undefined;
  /** Distance between two lines, in sizes of the font: 1.2 is 120 %. */
  readonly lineHeight: number;
  /** Pictures it draws its letters from, by their paths. */
  readonly pages: readonly string[];
  /**
   * Draws one line.
   *
   * @param size pixels of an em; a font of one size takes its own
   * @returns black with alpha for outlines, the letters' own colours otherwise; code points it lacks are drawn as the font draws them
   */
  drawLine(text: string, size: number): Promise<Pixels>;
}

/** Characters of a line that is drawn, at most. */
export const MOST_CHARACTERS = 400;
/** Pixels of a drawn line, at most: whatever a font says of its size, 128 MB hold it. */
export const MOST_WIDTH = 16_000;
export const MOST_HEIGHT = 2_000;
/** Bytes of a font that is opened, at most: the largest fonts with all of CJK have about 30 MB. */
export const MOST_FONT_BYTES = 64 << 20;

export const tooLarge = (bytes: number, file: string): LimitError =>
  new LimitError({
    code: 'limit-reached',
    file,
    what: 'the font is too large',
    limit: `${MOST_FONT_BYTES.toLocaleString('en')} bytes`,
    found: bytes.toLocaleString('en'),
  });
