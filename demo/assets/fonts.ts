/** The fonts of Gondola Post: one of outlines for its pages, and one of pictures for the boards of the stations. */
import { Font, Glyph, Path } from 'opentype.js';
import sharp from 'sharp';
import type { ArchiveFile } from '../archives/entry';
import { writeBoardFont, type BoardGlyph } from '../archives/board-font';
import { letters, type Letter } from './letters';

const UNITS = 1000;
const SQUARE = 100;

export async function fonts(): Promise<ArchiveFile[]> {
  const { page, font } = await boardFont();
  return [
    { name: 'fonts/gondola.otf', bytes: outlines() },
    { name: 'fonts/board.gpf', bytes: font },
    { name: 'fonts/board.png', bytes: page },
  ];
}

function outlines(): Buffer {
  const missing = new Glyph({ name: '.notdef', advanceWidth: 6 * SQUARE, path: squaresPath(BOX, SQUARE) });
  const font = new Font({
    familyName: 'Gondola',
    styleName: 'Regular',
    unitsPerEm: UNITS,
    ascender: 900,
    descender: -250,
    createdTimestamp: 1_772_438_400,
    glyphs: [missing, ...letters().map(glyphOf)],
  });
  return withFixedDate(Buffer.from(font.toArrayBuffer()));
}

/** The library writes the time of day into the table `head`; here it is the day of the game, with both sums made again. */
function withFixedDate(font: Buffer): Buffer {
  const count = font.readUInt16BE(4);
  const row = Array.from({ length: count }, (_, i) => 12 + i * 16).find(
    (at) => font.toString('latin1', at, at + 4) === 'head',
  )!;
  const head = font.readUInt32BE(row + 8);
  const length = font.readUInt32BE(row + 12);
  font.copy(font, head + 28, head + 20, head + 28);
  font.writeUInt32BE(0, head + 8);
  font.writeUInt32BE(sumOf(font, head, length), row + 4);
  // ISO/IEC 14496-22, 5.2.2: the whole file sums up to this number.
  font.writeUInt32BE((0xb1b0afba - sumOf(font, 0, font.length)) >>> 0, head + 8);
  return font;
}

function sumOf(bytes: Buffer, from: number, length: number): number {
  let sum = 0;
  for (let at = from; at < from + length; at += 4) sum = (sum + bytes.readUInt32BE(at)) >>> 0;
  return sum;
}

/** What is drawn for a letter that is not there. */
const BOX: Letter['squares'] = [0, 1, 2, 3, 4].flatMap((x) =>
  [0, 1, 2, 3, 4, 5, 6].flatMap((y) => (x % 4 === 0 || y % 6 === 0 ? [[x, y] as const] : [])),
);

function glyphOf({ character, squares, scale, advance }: Letter): Glyph {
  const unicode = character.codePointAt(0)!;
  const side = SQUARE * scale;
  const name = `uni${unicode.toString(16).toUpperCase().padStart(4, '0')}`;
  return new Glyph({ name, unicode, advanceWidth: advance * side, path: squaresPath(squares, side) });
}

function squaresPath(squares: Letter['squares'], side: number): Path {
  const path = new Path();
  for (const [x, y] of squares) {
    const [left, low] = [(x + 0.5) * side, y * side];
    path.moveTo(left, low);
    path.lineTo(left, low + side);
    path.lineTo(left + side, low + side);
    path.lineTo(left + side, low);
    path.close();
  }
  return path;
}

/** Pixels of a square on the board. */
const DOT = 3;
/** Squares above and below the baseline that a line of the board has. */
const [ABOVE, BELOW] = [10, 3];
const CELL = { width: 6 * DOT, height: (ABOVE + BELOW) * DOT };
const ACROSS = 14;

async function boardFont(): Promise<{ page: Buffer; font: Uint8Array }> {
  // The board has capitals only: small letters show as these.
  const all = letters().filter(({ character }) => character === character.toUpperCase() && character !== 'ß');
  const glyphs: BoardGlyph[] = [];
  const dots: string[] = [];
  all.forEach(({ character, squares, advance }, i) => {
    const [x, y] = [(i % ACROSS) * CELL.width, Math.floor(i / ACROSS) * CELL.height];
    for (const [across, up] of squares)
      dots.push(
        `<rect x="${x + across * DOT}" y="${y + (ABOVE - 1 - up) * DOT}" width="${DOT - 1}" height="${DOT - 1}" fill="#ffd27a"/>`,
      );
    const glyph = { x, y, width: CELL.width, height: CELL.height, left: 0, top: 0, advance: advance * DOT };
    glyphs.push({ code: character.codePointAt(0)!, ...glyph });
    const small = character.toLowerCase();
    if (small !== character && [...small].length === 1) glyphs.push({ code: small.codePointAt(0)!, ...glyph });
  });
  const [width, height] = [ACROSS * CELL.width, Math.ceil(all.length / ACROSS) * CELL.height];
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${dots.join('')}</svg>`;
  return {
    page: await sharp(Buffer.from(svg)).png({ compressionLevel: 9 }).toBuffer(),
    font: writeBoardFont({ size: 7 * DOT, line: CELL.height, base: ABOVE * DOT, page: 'board.png', glyphs }),
  };
}
