/** Making a dropped file what the game expects, or saying why that cannot be. */
import type { Sharp } from 'sharp';
import { FaultError } from '../../core/faults';
import { KIND_NAMES, kindOf, mimeOf, type Kind } from '../../core/game';
import { decodeText, encodeLike, textFormOf, type LineEnds } from '../../core/text';
import { asPicture } from '../content';
import { asPng, fitSoundFile } from '../forms';
import type { FitOptions } from '../shapes';

export interface Fitted {
  readonly bytes: Uint8Array;
  /** What was done to the file, as sentences; none when it went in as it is. */
  readonly done: readonly string[];
}

/**
 * @param original the plain bytes of the entry that is replaced
 * @throws FaultError `wrong-kind` saying what was expected and what was found
 */
export async function fit(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
  fitOptions: FitOptions = {},
): Promise<Fitted> {
  if (dropped.length === 0)
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      what: 'the file is empty',
      hint: 'Was it still being written?',
    });
  const wanted = kindOf(path, original);
  const found = kindOf(fileName, dropped);
  switch (wanted) {
    case 'picture':
      if (found !== 'picture') throw wrongKind(path, wanted, fileName, dropped);
      return fitPicture(path, original, dropped, fileName);
    case 'sound':
      if (found !== 'sound') throw wrongKind(path, wanted, fileName, dropped);
      return fitSoundFile(path, original, dropped, fileName, fitOptions);
    case 'words':
    case 'records':
      // Its name says nothing, and the game may take any bytes under it.
      if (kindOf(path) === 'bytes' && found === 'bytes') return { bytes: dropped, done: [] };
      return fitText(path, original, dropped, fileName);
    default:
      return { bytes: dropped, done: [] };
  }
}

function wrongKind(path: string, wanted: Kind, fileName: string, dropped: Uint8Array): FaultError {
  const kind = kindOf(fileName, dropped);
  const named = kindOf(fileName) !== kind ? `, although its name says ${kindOf(fileName)}` : '';
  return new FaultError({
    code: 'wrong-kind',
    file: fileName,
    entry: path,
    what: 'it cannot take the place of the entry',
    expected: KIND_NAMES[wanted].some,
    found: `${KIND_NAMES[kind].some}${named}`,
  });
}

/** Formats other than PNG that are written as well. */
const ENCODERS: Readonly<Record<string, (picture: Sharp) => Sharp>> = {
  'image/jpeg': (picture) => picture.removeAlpha().jpeg({ quality: 95 }),
  'image/webp': (picture) => picture.webp({ lossless: true }),
};

/** A picture in the format of an original that is no PNG: as it is where it fits, written again where that can be done. */
async function fitOtherPicture(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
): Promise<Fitted> {
  const format = mimeOf(path, original);
  const given = mimeOf(fileName, dropped);
  const encode = ENCODERS[format];
  if (encode === undefined) {
    if (given === format) return { bytes: dropped, done: [] };
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      entry: path,
      what: 'pictures in that format are read and not written',
      expected: format,
      found: given,
      hint: 'Save it in that format.',
    });
  }
  const { width, height } = await asPicture(original, path, (picture) => picture.metadata());
  const raster = await asPng(dropped, fileName);
  const before = await asPicture(raster, fileName, (picture) => picture.metadata());
  const sameSize = before.width === width && before.height === height;
  if (sameSize && given === format) return { bytes: dropped, done: [] };
  const done: string[] = [];
  if (!sameSize) done.push(`yours was ${before.width} × ${before.height}, made ${width} × ${height}`);
  if (given !== format) done.push(`turned into ${format.slice('image/'.length).toUpperCase()}`);
  const bytes = await asPicture(raster, fileName, (picture) =>
    encode(picture.resize(width, height, { fit: 'fill', kernel: 'lanczos3' })).toBuffer(),
  );
  return { bytes, done };
}

async function fitPicture(path: string, original: Uint8Array, given: Uint8Array, fileName: string): Promise<Fitted> {
  if (mimeOf(path, original) !== 'image/png') return fitOtherPicture(path, original, given, fileName);
  return fitPng(path, original, await asPng(given, fileName), fileName);
}

async function fitPng(path: string, original: Uint8Array, dropped: Uint8Array, fileName: string): Promise<Fitted> {
  const before = await asPicture(original, path, (picture) => picture.metadata());
  const given = await asPicture(dropped, fileName, (picture) => picture.metadata());
  const done: string[] = [];
  const sameSize = given.width === before.width && given.height === before.height;
  const samePixels =
    given.format === 'png' &&
    given.channels === before.channels &&
    given.depth === before.depth &&
    given.space === before.space;
  if (sameSize && samePixels) return { bytes: dropped, done };
  if (!sameSize) done.push(`yours was ${given.width} × ${given.height}, made ${before.width} × ${before.height}`);
  if (given.format !== 'png') done.push(`turned from ${given.format.toUpperCase()} into PNG`);
  if (given.hasAlpha !== before.hasAlpha) done.push(before.hasAlpha ? 'given an alpha channel' : 'alpha left out');
  const bytes = await asPicture(dropped, fileName, (picture) => {
    let made = picture.toColourspace('srgb');
    if (!sameSize) made = made.resize(before.width, before.height, { fit: 'fill', kernel: 'lanczos3' });
    made = before.hasAlpha ? made.ensureAlpha() : made.removeAlpha();
    return made.png({ compressionLevel: 9, palette: false }).toBuffer();
  });
  return { bytes, done: done.length > 0 ? done : ['written as the game’s kind of PNG'] };
}

/** A text in the encoding of the original, with its mark and line ends. */
function fitText(path: string, original: Uint8Array, dropped: Uint8Array, fileName: string): Fitted {
  const before = textFormOf(original);
  const given = textFormOf(dropped);
  // Short texts tell little of their encoding: one that is not UTF-8 most likely is in that of the original.
  const text = decodeText(dropped, given.encoding === 'utf-8' || given.hasMark ? given : before);
  if (CONTROLS.test(text))
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      entry: path,
      expected: 'a text',
      found: 'bytes that are none',
      hint: 'Save it as text, best in UTF-8.',
    });
  if (path.endsWith('.json')) {
    try {
      JSON.parse(text);
    } catch (error) {
      throw new FaultError(
        { code: 'wrong-kind', file: fileName, entry: path, expected: 'JSON', found: (error as Error).message },
        { cause: error },
      );
    }
  }
  if (original.length === 0) return { bytes: dropped, done: [] };
  const bytes = encodeLike(text, before);
  if (Buffer.compare(bytes, dropped) === 0) return { bytes: dropped, done: [] };
  const done: string[] = [];
  if (before.encoding !== given.encoding || before.hasMark !== given.hasMark)
    done.push(`written in ${before.encoding}${before.hasMark ? ' with a byte order mark' : ''}, like the original`);
  if (before.lineEnds !== undefined && before.lineEnds !== given.lineEnds)
    done.push(`lines end in ${LINE_ENDS[before.lineEnds]}, like the original`);
  return { bytes, done };
}

/** No text has these, in any encoding. */
const CONTROLS = /[\u0000-\u0008\u000e-\u0019\u001c-\u001f\ufffd]/;

const LINE_ENDS: Readonly<Record<LineEnds, string>> = { '\n': 'LF', '\r\n': 'CR LF', '\r': 'CR' };
