/** A dropped picture as the picture of an open format that it replaces. */
import type { Sharp } from 'sharp';
import { FaultError } from '../../faults';
import { mimeOf } from '../../game';
import { asPicture } from './as-picture';
import { asPng } from './fit-files';

interface FittedRaster {
  readonly bytes: Uint8Array;
  readonly done: readonly string[];
}

/**
 * @param original bytes of the picture that is replaced
 * @param given a picture in an open format
 * @throws FaultError `wrong-kind` when it is none, or the format of the original is not written
 */
export async function fitRaster(
  path: string,
  original: Uint8Array,
  given: Uint8Array,
  fileName: string,
): Promise<FittedRaster> {
  if (mimeOf(path, original) !== 'image/png') return fitOtherPicture(path, original, given, fileName);
  return fitPng(path, original, await asPng(given, fileName), fileName);
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
): Promise<FittedRaster> {
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

async function fitPng(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
): Promise<FittedRaster> {
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
