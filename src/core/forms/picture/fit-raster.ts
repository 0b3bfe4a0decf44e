/** A dropped picture as the picture of an open format that it replaces. */
import type { Note } from '../../notes';
import type { Sharp } from 'sharp';
import { FaultError } from '../../faults';
import { mimeOf } from '../../game';
import { asPicture } from './as-picture';
import { asPng } from './fit-files';

interface FittedRaster {
  readonly bytes: Uint8Array;
  readonly notes: readonly Note[];
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
  'image/gif': (picture) => picture.gif(),
  'image/tiff': (picture) => picture.tiff({ compression: 'lzw' }),
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
    if (given === format) return { bytes: dropped, notes: [] };
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
  const { width, height, pages = 1 } = await asPicture(original, path, (picture) => picture.metadata());
  // A file of several pictures goes in as it is: it was made for that.
  if (pages > 1 && given === format) {
    const own = await asPicture(dropped, fileName, (picture) => picture.metadata());
    if ((own.pages ?? 1) > 1) return { bytes: dropped, notes: [] };
  }
  const raster = await asPng(dropped, fileName);
  const before = await asPicture(raster, fileName, (picture) => picture.metadata());
  const sameSize = before.width === width && before.height === height;
  if (sameSize && given === format) return { bytes: dropped, notes: [] };
  const notes: Note[] = [];
  if (pages > 1) notes.push({ code: 'picture-frames-lost', before: pages });
  if (!sameSize) notes.push({ code: 'picture-resized', from: [before.width, before.height], to: [width, height] });
  if (given !== format) notes.push({ code: 'picture-converted', to: format.slice('image/'.length).toUpperCase() });
  const bytes = await asPicture(raster, fileName, (picture) =>
    encode(picture.resize(width, height, { fit: 'fill', kernel: 'lanczos3' })).toBuffer(),
  );
  return { bytes, notes };
}

async function fitPng(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
): Promise<FittedRaster> {
  const before = await asPicture(original, path, (picture) => picture.metadata());
  const given = await asPicture(dropped, fileName, (picture) => picture.metadata());
  const notes: Note[] = [];
  const sameSize = given.width === before.width && given.height === before.height;
  const samePixels =
    given.format === 'png' &&
    given.channels === before.channels &&
    given.depth === before.depth &&
    given.space === before.space;
  if (sameSize && samePixels) return { bytes: dropped, notes };
  if (!sameSize)
    notes.push({ code: 'picture-resized', from: [given.width, given.height], to: [before.width, before.height] });
  if (given.format !== 'png') notes.push({ code: 'picture-converted', from: given.format.toUpperCase(), to: 'PNG' });
  if (given.hasAlpha !== before.hasAlpha)
    notes.push({ code: before.hasAlpha ? 'picture-alpha-added' : 'picture-alpha-removed' });
  const bytes = await asPicture(dropped, fileName, (picture) => {
    let made = picture.toColourspace('srgb');
    if (!sameSize) made = made.resize(before.width, before.height, { fit: 'fill', kernel: 'lanczos3' });
    made = before.hasAlpha ? made.ensureAlpha() : made.removeAlpha();
    return made.png({ compressionLevel: 9, palette: false }).toBuffer();
  });
  return { bytes, notes: notes.length > 0 ? notes : [{ code: 'picture-rewritten', format: 'PNG' }] };
}
