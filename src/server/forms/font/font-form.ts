/** Fonts: facts, a line drawn in them, and other fonts in their place. */
import { bufferSource } from '../../../core/bytes';
import { FaultError, isFaultError } from '../../../core/faults';
import {
  compareFonts,
  coverageOf,
  fontContainer,
  readRecipeFont,
  sayFontExpectation,
  type Font,
  type FontOut,
} from '../../../core/forms/font';
import { writePng } from '../../../core/forms/picture';
import { kindOf } from '../../../core/game';
import type { FontLineQuery } from '../../shapes';
import { formRecipeOf } from '../../recipes';
import { pictureOfFiles } from '../entry-picture';
import type { FormBytes, ServerForm } from '../form';
import { unpackMip } from '../unpack-mip';
import { fontInContainer, openFont } from './open-font';

export const fontForm: ServerForm = {
  kind: 'font',
  is: async (head, path) => kindOf(path, head) === 'font' || (await recipeOf(head, path)) !== undefined,
  async read(of) {
    const font = await fontOf(of);
    const { packing, family, style, glyphs, codePoints, fixedSize, lineHeight, pages } = font;
    return {
      facts: {
        form: 'font',
        ...{ packing, family, style, glyphs, fixedSize: fixedSize ?? null, lineHeight, pages },
        characters: codePoints.length,
        coverage: coverageOf(codePoints),
      },
      expects: sayFontExpectation(font),
    };
  },
  async glance(of) {
    return `${(await fontOf(of)).codePoints.length.toLocaleString('en')} characters`;
  },
  async draw(of) {
    const font = await fontOf(of);
    const pixels = await font.drawLine(sampleFor(font), font.fixedSize ?? 72);
    // Letters that are pictures may be white as well as black.
    return { pixels, paper: font.fixedSize === undefined ? '#ffffff' : '#7d8288' };
  },
  async fit(original, { bytes, fileName }) {
    const before = await readable(original);
    if (before === undefined) return fitUnread(original, bytes, fileName);
    const own = { ...original, bytes };
    if (before.fixedSize !== undefined) {
      if ((await recipeOf(bytes, original.path)) === undefined)
        throw otherFormat(original.path, before.packing, fileName);
      return { bytes, done: compareFonts(before, await fontOf(own)) };
    }
    const notes = compareFonts(before, await openFont(bytes, fileName));
    const as = CONTAINERS[before.packing];
    if (fontContainer(bytes) === before.packing) return { bytes, done: notes };
    if (as === undefined) throw otherFormat(original.path, before.packing, fileName);
    const made = await fontInContainer(bytes, as, fileName);
    if (Buffer.compare(made, bytes) === 0) return { bytes, done: notes };
    const how = as === 'ttf' ? 'unpacked, as the original is' : `turned into ${before.packing}`;
    return { bytes: made, done: [how, ...notes] };
  },
};

/** Undefined when the game's own font is broken: it can be replaced all the same. */
async function readable(of: FormBytes): Promise<Font | undefined> {
  return fontOf(of).catch((error: unknown) => {
    if (isFaultError(error)) return undefined;
    throw error;
  });
}

/** In the place of a font that cannot be read nothing can be compared; the new one has to be whole. */
async function fitUnread(original: FormBytes, bytes: Uint8Array, fileName: string) {
  await fontOf({ ...original, bytes }).catch((error: unknown) => {
    throw isFaultError(error) ? new FaultError({ ...error.fault, file: fileName }) : error;
  });
  return { bytes, done: ['the original cannot be read, so nothing was compared with it'] };
}

/** How each container is written. Plain tables are one, whatever their outlines. */
const CONTAINERS: Readonly<Record<string, FontOut>> = {
  TrueType: 'ttf',
  OpenType: 'ttf',
  WOFF: 'woff',
  WOFF2: 'woff2',
};

function otherFormat(path: string, expected: string, fileName: string): FaultError {
  return new FaultError({
    code: 'wrong-kind',
    file: fileName,
    entry: path,
    what: 'it cannot take the place of this font',
    expected: `a font in ${expected}`,
    ...(expected in CONTAINERS || expected === 'TrueType collection'
      ? {}
      : { hint: 'Change its pages, which are pictures of their own, to change its letters.' }),
  });
}

const recipeOf = (bytes: Uint8Array, path: string) => formRecipeOf(bytes.subarray(0, 512), path, 'font');

/** @throws FormatError when it is no font or a broken one */
export async function fontOf({ path, bytes, beside }: FormBytes): Promise<Font> {
  const recipe = await recipeOf(bytes, path);
  if (recipe === undefined) return openFont(bytes, path);
  return readRecipeFont(recipe, bufferSource(bytes, path), async (page) => {
    const found = await beside(page);
    return found === undefined
      ? undefined
      : unpackMip((await pictureOfFiles({ path: page, bytes: found }, beside)).picture, 0);
  });
}

/** A line of text in the font, as PNG. */
export async function fontLine(of: FormBytes, { text, size }: FontLineQuery): Promise<Uint8Array> {
  const font = await fontOf(of);
  return writePng(await font.drawLine(text ?? sampleFor(font), size));
}

/** Letters to show where no text is given: of the first script it has. */
function sampleFor({ codePoints }: Font): string {
  const has = new Set(codePoints);
  const sample = SAMPLES.find((text) => [...text].every((one) => has.has(one.codePointAt(0)!)));
  return sample ?? String.fromCodePoint(...codePoints.filter((one) => one > 0x20).slice(0, 8));
}

const SAMPLES = ['Aa Bb 123', 'Aa', 'Аа Бб', 'Αα Ββ', 'あア', '字'];
