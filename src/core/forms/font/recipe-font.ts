/** Fonts that a recipe presents: rows say where the picture of each letter is. */
import type { ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import { openArchive, rowValues, valueIn, type Archive, type Recipe, type Value } from '../../recipe';
import type { Pixels } from '../picture';
import { MOST_CHARACTERS, MOST_FONT_BYTES, MOST_HEIGHT, MOST_WIDTH, type Font } from './font';

/** Letters at most: all of Unicode has not many more. */
const MOST_GLYPHS = 200_000;

export interface Glyph {
  readonly codePoint: number;
  readonly page: string;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly left: number;
  readonly top: number;
  readonly advance: number;
}

/** The pixels of a page, by its path in the game; undefined when there is none. */
export type PageOf = (path: string) => Promise<Pixels | undefined>;

/**
 * @param source its name is its path in the game: pages are found from its folder
 * @throws FormatError for what the file has wrong, with region, field, offset, expected and found
 */
export async function readRecipeFont(recipe: Recipe, source: ByteSource, pageOf: PageOf): Promise<Font> {
  const file = await openArchive(recipe, [source], { limits: { maxWholeBytes: MOST_FONT_BYTES } });
  const rule = recipe.font;
  if (rule === undefined) throw new RangeError(`${recipe.id} presents no font`);
  const glyphs = glyphsOf(file);
  const kerning = kerningOf(file);
  const size = numberOf(valueIn(file, rule.size), 'size', file);
  const base = numberOf(valueIn(file, rule.base), 'base', file);
  const line = rule.lineHeight === undefined ? size : numberOf(valueIn(file, rule.lineHeight), 'line', file);
  if (!(size > 0)) throw wrong(file, 'size', 'more than 0', String(size));
  const pages = [...new Set([...glyphs.values()].map(({ page }) => page))];
  return {
    packing: recipe.title,
    outlines: 'none',
    family: source.name.slice(source.name.lastIndexOf('/') + 1).replace(/\.[^.]*$/, ''),
    style: '',
    glyphs: glyphs.size,
    codePoints: [...glyphs.keys()].sort((a, b) => a - b),
    fixedSize: size,
    lineHeight: line / size,
    pages,
    drawLine: (text) => drawLine(text.slice(0, MOST_CHARACTERS), { glyphs, kerning, line, base, pageOf }),
  };
}

function glyphsOf(file: Archive): Map<number, Glyph> {
  const { each, code, page, x, y, width, height, left, top, advance } = file.recipe.font!.glyphs;
  const optional = [left, top].filter((one) => one !== undefined);
  const rows = rowValues(file, each, [code, page, x, y, width, height, advance, ...optional]);
  if (rows.length > MOST_GLYPHS) throw wrong(file, 'glyphs', `at most ${MOST_GLYPHS}`, String(rows.length));
  const folder = file.source.name.slice(0, file.source.name.lastIndexOf('/') + 1);
  return new Map(
    rows.map((row, i) => {
      const number = (value: Value, name: string) => numberOf(value, `${name} of letter ${i}`, file);
      const codePoint = codePointOf(row[0], i, file);
      const glyph = {
        codePoint,
        page: folder + String(row[1]),
        x: number(row[2], 'x'),
        y: number(row[3], 'y'),
        width: number(row[4], 'width'),
        height: number(row[5], 'height'),
        advance: number(row[6], 'advance'),
        left: left === undefined ? 0 : number(row[7], 'left'),
        top: top === undefined ? 0 : number(row[left === undefined ? 7 : 8], 'top'),
      };
      return [codePoint, glyph];
    }),
  );
}

function kerningOf(file: Archive): Map<string, number> {
  const { kerning } = file.recipe.font!;
  if (kerning === undefined) return new Map();
  const rows = rowValues(file, kerning.each, [kerning.first, kerning.second, kerning.amount]);
  return new Map(
    rows.map(([first, second, amount], i) => [
      pairKey(codePointOf(first, i, file), codePointOf(second, i, file)),
      numberOf(amount, `amount of pair ${i}`, file),
    ]),
  );
}

const pairKey = (first: number, second: number): string => `${first} ${second}`;

/** A number, or the character itself. */
function codePointOf(value: Value, row: number, file: Archive): number {
  const codePoint = typeof value === 'string' && value !== '' ? value.codePointAt(0)! : Number(value);
  if (Number.isInteger(codePoint) && codePoint >= 0 && codePoint <= 0x10ffff) return codePoint;
  throw wrong(file, `code of letter ${row}`, 'a Unicode code point, 0 to 1,114,111', String(value));
}

function numberOf(value: Value, field: string, file: Archive): number {
  const number = Number(value);
  if (Number.isFinite(number)) return number;
  throw wrong(file, field, 'a number', String(value));
}

function wrong({ source, recipe }: Archive, field: string, expected: string, found: string): FormatError {
  return new FormatError({
    ...{ code: 'wrong-kind', file: source.name, recipe: recipe.id, line: recipe.font!.line },
    ...{ field, expected, found },
  });
}

interface Drawing {
  readonly glyphs: ReadonlyMap<number, Glyph>;
  readonly kerning: ReadonlyMap<string, number>;
  readonly line: number;
  readonly base: number;
  readonly pageOf: PageOf;
}

const MARGIN = 4;

async function drawLine(text: string, { glyphs, kerning, line, base, pageOf }: Drawing): Promise<Pixels> {
  const placed: { glyph: Glyph; x: number }[] = [];
  const space = glyphs.get(0x20)?.advance ?? Math.ceil(base / 3);
  let pen = 0;
  let before: number | undefined;
  for (const character of text) {
    const codePoint = character.codePointAt(0)!;
    const glyph = glyphs.get(codePoint);
    if (before !== undefined) pen += kerning.get(pairKey(before, codePoint)) ?? 0;
    if (glyph !== undefined) placed.push({ glyph, x: pen + glyph.left });
    pen += glyph?.advance ?? space;
    before = codePoint;
  }
  const below = placed.reduce((most, { glyph }) => Math.max(most, glyph.top + glyph.height), line);
  const width = Math.min(MOST_WIDTH, Math.max(1, Math.ceil(pen)) + 2 * MARGIN);
  const height = Math.min(MOST_HEIGHT, Math.max(1, Math.ceil(below)) + 2 * MARGIN);
  const rgba = new Uint8Array(width * height * 4);
  const pages = new Map<string, Pixels | undefined>();
  for (const { glyph, x } of placed) {
    if (!pages.has(glyph.page)) pages.set(glyph.page, await pageOf(glyph.page));
    const page = pages.get(glyph.page);
    if (page === undefined)
      throw new FormatError({
        code: 'volume-missing',
        what: 'the picture that holds the letters is not there',
        expected: glyph.page,
        hint: 'It may be in an archive that is locked, or in one that is not here.',
      });
    paste(page, glyph, { width, height, rgba }, Math.round(x) + MARGIN, Math.round(glyph.top) + MARGIN);
  }
  return { width, height, rgba };
}

/** Draws a letter over what is there; what lies outside of either picture is never visited, however large the file says it is. */
function paste(from: Pixels, glyph: Glyph, to: Pixels, left: number, top: number): void {
  const [x, y] = [Math.round(glyph.x), Math.round(glyph.y)];
  const firstRow = Math.max(0, -y, -top);
  const endRow = Math.min(glyph.height, from.height - y, to.height - top);
  const firstColumn = Math.max(0, -x, -left);
  const endColumn = Math.min(glyph.width, from.width - x, to.width - left);
  for (let row = firstRow; row < endRow; row++)
    for (let column = firstColumn; column < endColumn; column++) {
      const source = ((y + row) * from.width + x + column) * 4;
      if (from.rgba[source + 3]! > 0)
        to.rgba.set(from.rgba.subarray(source, source + 4), ((top + row) * to.width + left + column) * 4);
    }
}
