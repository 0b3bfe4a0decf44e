/** Fonts: facts, a line drawn in them, and other fonts in their place. */
import sharp from 'sharp';
import { bufferSource } from '../../../core/bytes';
import { FaultError, isFaultError } from '../../../core/faults';
import {
  compareFonts,
  CONTAINER_FORMATS,
  coverageOf,
  fontContainer,
  readRecipeFont,
  sayFontExpectation,
  type Font,
} from '../../../core/forms/font';
import { FONT_OUT } from '../../../core/forms/font/out-formats';
import type { Note } from '../../../core/notes';
import { writePng } from '../../../core/forms/picture';
import type { FontLineQuery } from '../../shapes';
import { formRecipeOf } from '../../recipes';
import { pictureOfFiles, unpackMip } from '../picture';
import type { ServerForm, Subject } from '../form';
import { fontInContainer, openFont } from './open-font';
import { planFonts } from './take-out';

export const fontForm: ServerForm = {
  kind: 'font',
  is: ({ kind }) => kind === 'font',
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
    const summary = `${(await fontOf(of)).codePoints.length.toLocaleString('en')} characters`;
    return { summary, shows: { is: 'thumbnail', webp: null } };
  },
  async thumbnail(of, frame) {
    const font = await fontOf(of);
    const { width, height, rgba } = await font.drawLine(sampleFor(font), font.fixedSize ?? 72);
    return (
      sharp(rgba, { raw: { width, height, channels: 4 } })
        .resize(frame.width, frame.height, { fit: 'inside', withoutEnlargement: true })
        // Letters that are pictures may be white as well as black.
        .flatten({ background: font.fixedSize === undefined ? '#ffffff' : '#7d8288' })
        .webp({ quality: 82 })
        .toBuffer()
    );
  },
  async fit(original, { bytes, fileName }) {
    const made = await fitFont(original, bytes, fileName);
    return { files: [{ path: original.path, bytes: made.bytes }], notes: made.notes };
  },
  planOut: planFonts,
  async asFile({ path, bytes }, format) {
    const as = FONT_OUT.find((one) => one === format);
    if (as === undefined) return undefined;
    const made = await fontInContainer(await bytes(), as, path);
    return { bytes: made, mime: `font/${as}`, path: `${path.replace(/\.[^./]*$/, '')}.${as}` };
  },
};

async function fitFont(
  original: Subject,
  bytes: Uint8Array,
  fileName: string,
): Promise<{ bytes: Uint8Array; notes: readonly Note[] }> {
  const before = await readable(original);
  const own = { ...original, head: bytes.subarray(0, original.head.length), bytes: () => Promise.resolve(bytes) };
  if (before === undefined) return fitUnread(own, bytes, fileName);
  if (before.fixedSize !== undefined) {
    if ((await recipeOf(original.gameId, bytes, original.path)) === undefined)
      throw otherFormat(original.path, before.packing, fileName);
    return { bytes, notes: compareFonts(before, await fontOf(own)) };
  }
  const notes = compareFonts(before, await openFont(bytes, fileName));
  const as = CONTAINER_FORMATS[before.packing];
  if (fontContainer(bytes) === before.packing) return { bytes, notes };
  if (as === undefined) throw otherFormat(original.path, before.packing, fileName);
  const made = await fontInContainer(bytes, as, fileName);
  if (Buffer.compare(made, bytes) === 0) return { bytes, notes };
  return { bytes: made, notes: [{ code: 'font-converted', to: before.packing }, ...notes] };
}

/** Undefined when the game's own font is broken: it can be replaced all the same. */
async function readable(of: Subject): Promise<Font | undefined> {
  return fontOf(of).catch((error: unknown) => {
    if (isFaultError(error)) return undefined;
    throw error;
  });
}

/** In the place of a font that cannot be read nothing can be compared; the new one has to be whole. */
async function fitUnread(
  own: Subject,
  bytes: Uint8Array,
  fileName: string,
): Promise<{ bytes: Uint8Array; notes: Note[] }> {
  await fontOf(own).catch((error: unknown) => {
    throw isFaultError(error) ? new FaultError({ ...error.fault, file: fileName }) : error;
  });
  return { bytes, notes: [{ code: 'font-original-unreadable' }] };
}

function otherFormat(path: string, expected: string, fileName: string): FaultError {
  return new FaultError({
    code: 'wrong-kind',
    file: fileName,
    entry: path,
    what: 'it cannot take the place of this font',
    expected: `a font in ${expected}`,
    ...(expected in CONTAINER_FORMATS || expected === 'TrueType collection'
      ? {}
      : { hint: 'Change its pages, which are pictures of their own, to change its letters.' }),
  });
}

const recipeOf = (gameId: number, bytes: Uint8Array, path: string) =>
  formRecipeOf(gameId, bytes.subarray(0, 512), path, 'font');

/** What of a subject a font is read from. */
type FontBytes = Pick<Subject, 'gameId' | 'path' | 'bytes' | 'companion'>;

/** @throws FormatError when it is no font or a broken one */
export async function fontOf({ gameId, path, bytes: read, companion }: FontBytes): Promise<Font> {
  const bytes = await read();
  const recipe = await recipeOf(gameId, bytes, path);
  if (recipe === undefined) return openFont(bytes, path);
  return readRecipeFont(recipe, bufferSource(bytes, path), async (page) => {
    const found = await companion(page);
    return found === undefined
      ? undefined
      : unpackMip((await pictureOfFiles(gameId, { path: page, bytes: found }, companion)).picture, 0);
  });
}

/** A line of text in the font, as PNG. */
export async function fontLine(of: Subject, { text, size }: FontLineQuery): Promise<Uint8Array> {
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
