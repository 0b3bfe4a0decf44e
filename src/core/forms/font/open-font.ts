/** TrueType, OpenType, WOFF and WOFF2, through the library for them. */
import type { Font as LibraryFont, FontCollection } from 'fontkit';
import { FormatError } from '../../faults';
import { readRaster, type Pixels } from '../picture';
import { fontContainer, plainTables } from './containers';
import { MOST_CHARACTERS, MOST_FONT_BYTES, MOST_HEIGHT, MOST_WIDTH, tooLarge, type Font } from './font';

/**
 * @param file its name, for faults
 * @throws FormatError `wrong-kind` when it is no font or a broken one; LimitError for one that is too large
 */
export async function readOpenFont(bytes: Uint8Array, file: string): Promise<Font> {
  if (bytes.length > MOST_FONT_BYTES) throw tooLarge(bytes.length, file);
  const packing = fontContainer(bytes);
  if (packing === undefined) throw broken(file, 'it begins like no font');
  // Only now: its tables of Unicode take as long to load as most commands run.
  const { create } = await import('fontkit');
  // Unpacked here: the library reads some tables of WOFF files wrongly.
  const plain = await plainTables(bytes, packing, file);
  return reading(file, () => {
    const opened = create(Buffer.from(plain.buffer, plain.byteOffset, plain.length));
    // Of a collection the first font represents all: they share their glyphs.
    const font = isCollection(opened) ? opened.fonts[0]! : opened;
    const { unitsPerEm, ascent, descent, lineGap } = font;
    if (!(unitsPerEm > 0)) throw broken(file, 'its units per em are not positive');
    return {
      packing,
      outlines: 'CFF ' in tablesOf(font) || 'CFF2' in tablesOf(font) ? 'CFF' : 'TrueType',
      family: font.familyName ?? '',
      style: font.subfamilyName ?? '',
      glyphs: font.numGlyphs,
      // Tables of characters end with one that has no glyph.
      codePoints: font.characterSet.filter((one) => font.hasGlyphForCodePoint(one)).sort((a, b) => a - b),
      fixedSize: undefined,
      lineHeight: (ascent - descent + lineGap) / unitsPerEm,
      pages: [],
      drawLine: (text, size) => drawLine(font, text.slice(0, MOST_CHARACTERS), size, file),
    };
  });
}

const isCollection = (font: LibraryFont | FontCollection): font is FontCollection => 'fonts' in font;

const tablesOf = (font: LibraryFont): object => (font as unknown as { directory: { tables: object } }).directory.tables;

/** Runs the library; whatever it throws is a fault of the file. */
function reading<T>(file: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    throw error instanceof FormatError ? error : broken(file, (error as Error).message.split('\n')[0]!, error);
  }
}

function broken(file: string, why: string, cause?: unknown): FormatError {
  return new FormatError(
    {
      code: 'wrong-kind',
      file,
      what: `the font cannot be read (${why})`,
      expected: 'TrueType, OpenType, WOFF or WOFF2',
      hint: 'Does another program open it?',
    },
    { cause },
  );
}

/** Free pixels on all sides: some letters reach beyond their advance. */
const MARGIN = 0.25;

async function drawLine(font: LibraryFont, text: string, size: number, file: string): Promise<Pixels> {
  const scale = size / font.unitsPerEm;
  const margin = Math.ceil(size * MARGIN);
  const { paths, advance } = reading(file, () => outlinesOf(font, text));
  const width = Math.min(MOST_WIDTH, Math.max(1, Math.round(advance * scale)) + 2 * margin);
  const height = Math.min(MOST_HEIGHT, Math.max(1, Math.ceil((font.ascent - font.descent) * scale)) + 2 * margin);
  const base = margin + font.ascent * scale;
  const drawn = paths.map(
    ({ path, x, y }) =>
      `<path transform="translate(${margin + x * scale} ${base - y * scale}) scale(${scale} ${-scale})" d="${path}"/>`,
  );
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${drawn.join('')}</svg>`;
  return readRaster(Buffer.from(svg), file);
}

interface Outline {
  /** As SVG draws it, in units of the font, upwards. */
  readonly path: string;
  readonly x: number;
  readonly y: number;
}

/** The glyphs of a line as the font's own rules place them, or one after the other where these are broken. */
function outlinesOf(font: LibraryFont, text: string): { paths: Outline[]; advance: number } {
  const paths: Outline[] = [];
  let advance = 0;
  for (const { glyph, position } of laidOut(font, text)) {
    paths.push({ path: glyph.path.toSVG(), x: advance + position.xOffset, y: position.yOffset });
    advance += position.xAdvance;
  }
  return { paths, advance };
}

function laidOut(font: LibraryFont, text: string) {
  try {
    const { glyphs, positions } = font.layout(text);
    return glyphs.map((glyph, i) => ({ glyph, position: positions[i]! }));
  } catch {
    return font
      .glyphsForString(text)
      .map((glyph) => ({ glyph, position: { xAdvance: glyph.advanceWidth, xOffset: 0, yOffset: 0 } }));
  }
}
