/** Fonts in open formats and of pictures, judged by another library. */
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import fc from 'fast-check';
import { parse } from 'opentype.js';
import { fonts } from '../../demo/assets';
import { bufferSource } from '../../src/core/bytes';
import { compileRecipe } from '../../src/core/recipe';
import { readPicture, unpackLevel } from '../../src/core/forms/picture';
import {
  compareFonts,
  coverageOf,
  fontAs,
  fontContainer,
  lettersOf,
  missingLetters,
  readOpenFont,
  readRecipeFont,
} from '../../src/core/forms/font';
import { fontConverter } from '../../src/core/forms/font/convert';

const shipped = join(dirname(require.resolve('@fontsource/ibm-plex-mono/package.json')), 'files');
const fileOf = (ending: string) =>
  new Uint8Array(
    readFileSync(
      join(
        shipped,
        readdirSync(shipped).find((name) => name.endsWith(ending))!,
      ),
    ),
  );
const WOFF2 = fileOf('latin-400-normal.woff2');
const WOFF = fileOf('latin-400-normal.woff');
const exactly = (bytes: Uint8Array): ArrayBuffer => Uint8Array.from(bytes).buffer;
/** What another library reads. */
const otherReader = (bytes: Uint8Array) => {
  const { glyphs, tables } = parse(exactly(bytes));
  return { glyphs: glyphs.length, characters: Object.keys(tables.cmap!.glyphIndexMap).map(Number) };
};

let otf: Uint8Array;
let board: Uint8Array;
let page: Uint8Array;
beforeAll(async () => {
  const made = new Map((await fonts()).map(({ name, bytes }) => [name, new Uint8Array(bytes)]));
  [otf, board, page] = ['gondola.otf', 'board.gpf', 'board.png'].map((name) => made.get(`fonts/${name}`)!) as [
    Uint8Array,
    Uint8Array,
    Uint8Array,
  ];
});

test.each([
  ['WOFF2', WOFF2],
  ['WOFF', WOFF],
])('%s is read, and becomes plain tables, WOFF and WOFF2 that other readers read alike', async (packing, bytes) => {
  const font = await readOpenFont(bytes, 'plex');
  expect(font).toMatchObject({ packing, outlines: 'TrueType', family: 'IBM Plex Mono', fixedSize: undefined });
  // Three letters of a font whose letters are all six tenths wide.
  expect((await font.drawLine('Aą1', 50)).width).toBe(3 * 30 + 2 * 13);
  const plain = await fontAs(bytes, 'ttf', 'plex');
  const other = otherReader(plain);
  expect(other.glyphs).toBe(font.glyphs);
  expect(other.characters.sort((a, b) => a - b)).toEqual(font.codePoints);
  const woff = await fontAs(plain, 'woff', 'plex');
  expect(fontContainer(woff)).toBe('WOFF');
  expect(otherReader(woff)).toEqual(otherReader(plain));
  expect(Buffer.compare(await fontAs(woff, 'ttf', 'plex'), plain)).toBe(0);
  const woff2 = await fontAs(plain, 'woff2', 'plex');
  expect((await readOpenFont(woff2, 'plex')).codePoints).toEqual(font.codePoints);
});

test('a font with CFF outlines says so, and keeps them', async () => {
  const font = await readOpenFont(otf, 'gondola.otf');
  expect(font).toMatchObject({ packing: 'OpenType', outlines: 'CFF', family: 'Gondola', style: 'Regular' });
  expect(otherReader(await fontAs(await fontAs(otf, 'woff2', 'x'), 'ttf', 'x')).glyphs).toBe(font.glyphs);
  expect(otf).toEqual(new Uint8Array((await fonts())[0]!.bytes));
});

test('a line is drawn where the letters are, and as wide as they are', async () => {
  const font = await readOpenFont(otf, 'gondola.otf');
  const { width, rgba } = await font.drawLine('HI', 70);
  // Two letters of six squares of a tenth of the size, and a quarter of the size at each side.
  expect(width).toBe(84 + 2 * 18);
  const inked = rgba.reduce((sum, value, i) => sum + (i % 4 === 3 ? value / 255 : 0), 0);
  // H has 17 squares, I has 11.
  expect(inked / 49).toBeCloseTo(28, 0);
  const empty = await font.drawLine('   ', 70);
  expect(empty.rgba.some((value, i) => i % 4 === 3 && value > 0)).toBe(false);
});

test('what is no font, is cut off or is broken anywhere is reported as a fault, and never as a bare error', async () => {
  await expect(readOpenFont(Buffer.from('not a font at all'), 'x.ttf')).rejects.toMatchObject({
    fault: { code: 'wrong-kind', file: 'x.ttf' },
  });
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(WOFF, WOFF2, otf),
      fc.nat(),
      fc.uint8Array({ minLength: 1, maxLength: 40 }),
      fc.boolean(),
      async (bytes, at, noise, cut) => {
        const broken = Uint8Array.from(bytes);
        broken.set(noise, at % (bytes.length - noise.length));
        const given = cut ? broken.subarray(0, at % bytes.length) : broken;
        for (const work of [
          async () => (await readOpenFont(given, 'x')).drawLine('Ab', 20),
          async () => fontAs(given, 'ttf', 'x'),
        ])
          await work().catch((error: unknown) => expect(error).toHaveProperty('fault.code'));
      },
    ),
    { numRuns: 60, seed: 7 },
  );
});

test('letters of texts that a font lacks are named, without placeholders and with what can be put together', () => {
  const has = [...'abcdefghijklmnopqrstuvwxyz Ł'].map((one) => one.codePointAt(0)!);
  const texts = [
    { key: 'first', text: 'zażółć {unit} gęśl' },
    { key: 'second', text: 'ą ę\n' },
  ];
  expect(
    missingLetters(has, lettersOf(texts)).map(({ letter, texts: count, first }) => [letter, count, first]),
  ).toEqual([
    ['ę', 2, 'first'],
    ['ó', 1, 'first'],
    ['ą', 1, 'second'],
    ['ć', 1, 'first'],
    ['ł', 1, 'first'],
    ['ś', 1, 'first'],
    ['ż', 1, 'first'],
  ]);
  // With a combining ogonek the letters can be put together.
  expect(missingLetters([...has, 0x328], lettersOf(texts)).map(({ letter }) => letter)).toEqual([...'óćłśż']);
  expect(missingLetters([], lettersOf([]))).toEqual([]);
});

test('coverage counts what Unicode assigns', () => {
  const ascii = Array.from({ length: 95 }, (_, i) => 0x20 + i);
  expect(coverageOf(ascii)).toEqual([{ block: 'Basic Latin', has: 94, of: 94 }]);
  expect(coverageOf([0x41, 0x430, 0x378])).toEqual([
    { block: 'Basic Latin', has: 1, of: 94 },
    { block: 'Cyrillic', has: 1, of: 256 },
  ]);
});

test('a font that lacks letters of the original, or has other outlines, says so', async () => {
  const original = await readOpenFont(WOFF2, 'a');
  expect(compareFonts(original, await readOpenFont(WOFF, 'b'))).toEqual([]);
  const notes = compareFonts(original, await readOpenFont(otf, 'c'));
  expect(notes.slice(0, 2)).toEqual([
    { code: 'font-lacks', count: expect.any(Number), letters: expect.any(String) },
    { code: 'font-outlines', yours: 'CFF', original: 'TrueType' },
  ]);
});

describe('a font of pictures', () => {
  const recipe = compileRecipe(readFileSync(join(__dirname, '../../recipes/board-font.yaml'), 'utf8'));
  const pixels = async () => unpackLevel((await readPicture(page, 'fonts/board.png')).picture, { mip: 0 });
  const read = (bytes: Uint8Array) =>
    readRecipeFont(recipe, bufferSource(bytes, 'fonts/board.gpf'), async (path) =>
      path === 'fonts/board.png' ? pixels() : undefined,
    );

  test('has the letters of its rows, drawn from its page', async () => {
    const font = await read(board);
    expect(font).toMatchObject({ packing: 'Board font', outlines: 'none', fixedSize: 21, pages: ['fonts/board.png'] });
    expect(font.codePoints).toContain('é'.codePointAt(0));
    expect(
      missingLetters(font.codePoints, lettersOf([{ key: 'a', text: 'Łódź 1' }])).map(({ letter }) => letter),
    ).toEqual(['ó', 'Ł', 'ź']);
    const { width, height, rgba } = await font.drawLine('HI', 0);
    expect([width, height]).toEqual([2 * 18 + 8, 39 + 8]);
    // 28 squares of two by two pixels, in the colour of the board.
    const inked = Array.from({ length: width * height }, (_, i) => i * 4).filter((i) => rgba[i + 3]! > 0);
    expect(inked.length).toBe(28 * 4);
    expect([...rgba.subarray(inked[0]!, inked[0]! + 4)]).toEqual([0xff, 0xd2, 0x7a, 255]);
  });

  test('whose letters claim to be enormous is drawn in no more time; one without its picture says which is missing', async () => {
    const huge = compileRecipe(
      readFileSync(join(__dirname, '../../recipes/board-font.yaml'), 'utf8')
        .replace('width: letter.width', 'width: 4000000000')
        .replace('height: letter.height', 'height: 4000000000'),
    );
    const source = bufferSource(board, 'fonts/board.gpf');
    const { height } = await (await readRecipeFont(huge, source, pixels)).drawLine('HI', 0);
    expect(height).toBe(2_000);
    const alone = await readRecipeFont(recipe, source, async () => undefined);
    await expect(alone.drawLine('HI', 0)).rejects.toMatchObject({
      fault: { code: 'volume-missing', expected: 'fonts/board.png' },
    });
  });

  test('whose code points are none is refused with the row', async () => {
    const broken = Uint8Array.from(board);
    broken[broken.length - 10] = 0xff;
    await expect(read(broken)).rejects.toMatchObject({
      fault: { code: 'wrong-kind', recipe: 'board-font', field: expect.stringContaining('code of letter') },
    });
  });
});

test('the command line converts fonts, and nothing else, to formats of fonts', async () => {
  const entry = (bytes: Uint8Array) =>
    ({ path: 'x', head: bytes.subarray(0, 512), bytes: async () => bytes, recipes: [] }) as never;
  expect(await fontConverter.convert(entry(page), 'ttf')).toBeUndefined();
  expect(fontContainer((await fontConverter.convert(entry(WOFF2), 'woff'))!.bytes)).toBe('WOFF');
});
