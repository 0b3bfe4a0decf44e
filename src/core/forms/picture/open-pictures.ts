/** Pictures in open formats, recognised by their bytes. */
import { FormatError } from '../../faults';
import { isSvg } from '../../game';
import { isBmp, readBmp } from './bmp';
import { isDds, readDds } from './dds';
import { isKtx2, readKtx2 } from './ktx2';
import { flatPicture, type Picture } from './picture';
import { findPixelFormat } from './pixel-formats';
import { readRaster } from './raster';
import { isTga, readTga } from './tga';

export type PictureFormat = 'png' | 'jpeg' | 'webp' | 'gif' | 'tga' | 'bmp' | 'dds' | 'ktx2' | 'svg';

export interface OpenPicture {
  readonly picture: Picture;
  readonly is: PictureFormat;
}

/** An SVG may have comments and a document type in front. */
const HEAD_BYTES = 4096;

const RASTERS: readonly (readonly [is: PictureFormat, at: number, bytes: string])[] = [
  ['png', 0, '\x89PNG'],
  ['jpeg', 0, '\xff\xd8\xff'],
  ['gif', 0, 'GIF8'],
  ['webp', 8, 'WEBP'],
];

/**
 * @param name its name, which decides where bytes alone do not: TGA has no signature
 * @throws FormatError `wrong-kind` or `cut-short`, saying what was looked for
 */
export async function readPicture(bytes: Uint8Array, name: string): Promise<OpenPicture> {
  const raster = RASTERS.find(([, at, text]) => [...text].every((one, i) => bytes[at + i] === one.charCodeAt(0)));
  if (raster !== undefined) {
    const { hasAlpha, ...pixels } = await readRaster(bytes, name);
    return { picture: flatPicture(pixels, findPixelFormat(hasAlpha ? 'rgba8' : 'rgb8')!, true), is: raster[0] };
  }
  if (isDds(bytes)) return { picture: readDds(bytes, name), is: 'dds' };
  if (isKtx2(bytes)) return { picture: await readKtx2(bytes, name), is: 'ktx2' };
  if (isBmp(bytes)) return { picture: flatPicture(readBmp(bytes, name), findPixelFormat('rgba8')!, true), is: 'bmp' };
  if (/\.tga$/i.test(name) && isTga(bytes))
    return { picture: flatPicture(readTga(bytes, name), findPixelFormat('rgba8')!, true), is: 'tga' };
  if (isSvg(bytes.subarray(0, HEAD_BYTES))) {
    // Nothing outside of it is read, and no script is run: the library draws shapes alone.
    const { hasAlpha, ...pixels } = await readRaster(bytes, name);
    return { picture: flatPicture(pixels, findPixelFormat(hasAlpha ? 'rgba8' : 'rgb8')!, true), is: 'svg' };
  }
  throw new FormatError({
    code: 'wrong-kind',
    file: name,
    offset: 0,
    what: 'this is no picture',
    expected: 'PNG, JPEG, WebP, GIF, TGA, BMP, DDS, KTX2 or SVG',
    found: `it begins with ${Buffer.from(bytes.subarray(0, 8)).toString('hex').toUpperCase() || 'nothing'}`,
  });
}
