/** Pictures in open formats: how each is recognised by its bytes, read, and written as the file that it replaces. */
import { FormatError } from '../../../faults';
import { isPcxHeader, isSgiHeader, isSvg } from '../../../game';
import { flatPicture, type Picture } from '../picture';
import { findPixelFormat } from '../pixel-formats';
import { readRaster } from '../raster';
import { bmpStorage, graftBmp, isBmp, readBmp } from './bmp';
import { graftDds, isDds, readDds, writeDds } from './dds';
import { graftKtx, isKtx, readKtx } from './ktx';
import { isKtx2, readKtx2, writeKtx2 } from './ktx2';
import { graftPcx, pcxStorage, readPcx } from './pcx';
import { graftSgi, readSgi, sgiStorage } from './sgi';
import { graftTga, isTga, readTga, tgaStorage } from './tga';

interface OpenFormat {
  readonly title: string;
  readonly endings: readonly string[];
  /** @param name decides where bytes alone do not: TGA has no signature */
  matches(bytes: Uint8Array, name: string): boolean;
  read(bytes: Uint8Array, name: string): Picture | Promise<Picture>;
  /**
   * Writes a picture in the pixel format of the original; undefined where the library for pictures writes the format, or nothing
   * does.
   */
  readonly graft?: (original: Uint8Array, picture: Picture, name: string) => Uint8Array;
  /**
   * How the pixels lie in the file, beyond their format: what is stored alike goes in byte for byte, with a palette of its own.
   * Undefined where it is always written anew.
   */
  readonly storage?: (bytes: Uint8Array, name: string) => string;
  /** The library for pictures reads the file as it is. */
  readonly isRaster?: boolean;
  /** The file leaves size, mips and packing free: they may be others than those of the original. */
  readonly isFree?: boolean;
}

/** What the library reads is one level of eight bits a channel. */
async function byLibrary(bytes: Uint8Array, name: string): Promise<Picture> {
  const { hasAlpha, ...pixels } = await readRaster(bytes, name);
  return flatPicture(pixels, findPixelFormat(hasAlpha ? 'rgba8' : 'rgb8')!, true);
}

const signed =
  (at: number, ...texts: readonly string[]) =>
  (bytes: Uint8Array): boolean =>
    texts.some((text) => [...text].every((one, i) => bytes[at + i] === one.charCodeAt(0)));

/** A chunk of RIFF: the name alone may stand in any file. */
const isWebp = (bytes: Uint8Array): boolean => signed(0, 'RIFF')(bytes) && signed(8, 'WEBP')(bytes);

/** An SVG may have comments and a document type in front. */
const SVG_HEAD = 4096;

const FORMATS = {
  png: { title: 'PNG', endings: ['png'], matches: signed(0, '\x89PNG'), read: byLibrary, isRaster: true },
  jpeg: {
    title: 'JPEG',
    endings: ['jpg', 'jpeg'],
    matches: signed(0, '\xff\xd8\xff'),
    read: byLibrary,
    isRaster: true,
  },
  gif: { title: 'GIF', endings: ['gif'], matches: signed(0, 'GIF8'), read: byLibrary, isRaster: true },
  webp: { title: 'WebP', endings: ['webp'], matches: isWebp, read: byLibrary, isRaster: true },
  tiff: {
    title: 'TIFF',
    endings: ['tif', 'tiff'],
    matches: signed(0, 'II*\0', 'MM\0*'),
    read: byLibrary,
    isRaster: true,
  },
  dds: {
    ...{ title: 'DDS', endings: ['dds'], matches: isDds, read: readDds, isFree: true },
    graft: (original: Uint8Array, picture: Picture, name: string) => {
      const before = readDds(original, name);
      const same =
        before.format.name === picture.format.name &&
        before.width === picture.width &&
        before.height === picture.height;
      return same ? graftDds(original, picture.levels) : writeDds(picture);
    },
  },
  ktx2: {
    ...{ title: 'KTX2', endings: ['ktx2'], matches: isKtx2, read: readKtx2, isFree: true },
    graft: (_original: Uint8Array, picture: Picture) => writeKtx2(picture),
  },
  ktx: { title: 'KTX', endings: ['ktx'], matches: isKtx, read: readKtx, graft: graftKtx },
  bmp: { title: 'BMP', endings: ['bmp'], matches: isBmp, read: readBmp, graft: graftBmp, storage: bmpStorage },
  pcx: { title: 'PCX', endings: ['pcx'], matches: isPcxHeader, read: readPcx, graft: graftPcx, storage: pcxStorage },
  sgi: {
    ...{ title: 'SGI', endings: ['sgi', 'rgb', 'rgba', 'bw'], matches: isSgiHeader },
    ...{ read: readSgi, graft: graftSgi, storage: sgiStorage },
  },
  tga: {
    ...{ title: 'TGA', endings: ['tga'], read: readTga, graft: graftTga, storage: tgaStorage },
    matches: (bytes: Uint8Array, name: string) => /\.tga$/i.test(name) && isTga(bytes),
  },
  // Nothing outside of it is read, and no script is run: the library draws shapes alone.
  svg: {
    ...{ title: 'SVG', endings: ['svg'], read: byLibrary },
    matches: (bytes: Uint8Array) => isSvg(bytes.subarray(0, SVG_HEAD)),
  },
} as const satisfies Readonly<Record<string, OpenFormat>>;

export type PictureFormat = keyof typeof FORMATS;

const all = Object.entries(FORMATS) as readonly [PictureFormat, OpenFormat][];

/** Endings of files that hold pictures, without the dot. */
export const PICTURE_ENDINGS: readonly string[] = all.flatMap(([, { endings }]) => endings);

export const openFormat = (is: PictureFormat): OpenFormat => FORMATS[is];

/** @param bytes the file, or the first of its bytes; 128 are enough for all but SVG */
const pictureFormatOf = (bytes: Uint8Array, name: string): PictureFormat | undefined =>
  all.find(([, { matches }]) => matches(bytes, name))?.[0];

/** Whether a file begins as one of them does. */
export const isOpenPicture = (head: Uint8Array, name: string): boolean => pictureFormatOf(head, name) !== undefined;

/** Whether a file keeps its pixels in one of several ways: what replaces it is stored in the same one. */
export function isPackedFormat(head: Uint8Array, name: string): boolean {
  const is = pictureFormatOf(head, name);
  return is !== undefined && openFormat(is).graft !== undefined;
}

export interface OpenPicture {
  readonly picture: Picture;
  readonly is: PictureFormat;
}

/**
 * @param name its name, which decides where bytes alone do not: TGA has no signature
 * @throws FormatError `wrong-kind` or `cut-short`, saying what was looked for
 */
export async function readPicture(bytes: Uint8Array, name: string): Promise<OpenPicture> {
  const is = pictureFormatOf(bytes, name);
  if (is !== undefined) return { picture: await FORMATS[is].read(bytes, name), is };
  const titles = all.map(([, { title }]) => title);
  throw new FormatError({
    code: 'wrong-kind',
    file: name,
    offset: 0,
    what: 'this is no picture',
    expected: `${titles.slice(0, -1).join(', ')} or ${titles.at(-1)}`,
    found: `it begins with ${Buffer.from(bytes.subarray(0, 8)).toString('hex').toUpperCase() || 'nothing'}`,
  });
}
