/** Packing pixels into what games keep: fitting blocks, or bits of each channel. */
import { FormatError } from '../../faults';
import { encodeBc7 } from './blocks/fit-bc7';
import { encodeChannel } from './blocks/fit-channel';
import { encodeColours } from './blocks/fit-colour';
import { makeMips, type MipOptions } from './mips';
import { alphaUse, packOneByOne, type Picture, type Pixels } from './picture';
import { levelBytes, type PixelFormat } from './pixel-formats';

export type Quality = 'fast' | 'best';

type PackBlock = (block: Uint8Array, best: boolean, out: Uint8Array, at: number) => void;

const colours =
  (cutOut: boolean, fourOnly: boolean): PackBlock =>
  (block, best, out, at) =>
    encodeColours(block, { best, cutOut, fourOnly }, out, at);

const PACKERS: Readonly<Record<string, PackBlock>> = {
  bc1: colours(false, false),
  'bc1 cut out': colours(true, false),
  bc3: (block, best, out, at) => {
    encodeChannel(block, 3, best, out, at);
    encodeColours(block, { best, cutOut: false, fourOnly: true }, out, at + 8);
  },
  bc3p: (block, best, out, at) => {
    for (let i = 0; i < block.length; i += 4)
      for (let c = 0; c < 3; c++) block[i + c] = Math.round((block[i + c]! * block[i + 3]!) / 255);
    encodeChannel(block, 3, best, out, at);
    encodeColours(block, { best, cutOut: false, fourOnly: true }, out, at + 8);
  },
  bc4: (block, best, out, at) => encodeChannel(block, 0, best, out, at),
  bc5: (block, best, out, at) => {
    encodeChannel(block, 0, best, out, at);
    encodeChannel(block, 1, best, out, at + 8);
  },
  bc7: encodeBc7,
};

/** Whether pictures of a format can be written, and not only read. */
export const canPack = (format: PixelFormat): boolean =>
  format.pack !== undefined || PACKERS[format.name] !== undefined;

/** @throws FormatError `unsupported` for a format that is only read */
export function packPixels(format: PixelFormat, pixels: Pixels, quality: Quality): Uint8Array {
  if (format.pack !== undefined) return packOneByOne(format, pixels);
  const cutOut = format.name === 'bc1' && alphaUse(pixels) !== 'none';
  const pack = PACKERS[cutOut ? 'bc1 cut out' : format.name];
  if (pack === undefined)
    throw new FormatError({
      code: 'wrong-kind',
      what: `pictures in ${format.title} are read and not written`,
      hint: 'Take it out as PNG, or choose another format.',
    });
  const { width, height, rgba } = pixels;
  const out = new Uint8Array(levelBytes(format, width, height));
  const block = new Uint8Array(64);
  let at = 0;
  for (let y = 0; y < height; y += 4) {
    for (let x = 0; x < width; x += 4, at += format.bytes) {
      for (let i = 0; i < 16; i++) {
        // Where the block reaches beyond the picture, its last pixels are repeated.
        const from = (Math.min(height - 1, y + (i >> 2)) * width + Math.min(width - 1, x + (i & 3))) * 4;
        for (let c = 0; c < 4; c++) block[i * 4 + c] = rgba[from + c]!;
      }
      pack(block, quality === 'best', out, at);
    }
  }
  return out;
}

/** A flat picture with its mips, packed. */
export function packPicture(
  pixels: Pixels,
  format: PixelFormat,
  options: MipOptions & { readonly quality: Quality },
): Picture {
  const mips = makeMips(pixels, options);
  return {
    width: pixels.width,
    height: pixels.height,
    depth: 1,
    layers: 1,
    faces: 1,
    mips: mips.length,
    format,
    srgb: options.srgb,
    levels: mips.map((mip) => packPixels(format, mip, options.quality)),
  };
}

/** How far two pictures of one size differ. */
export interface PictureError {
  /** Peak signal to noise in decibels, over all channels; Infinity when they are the same. */
  readonly decibels: number;
  /** The largest difference of a channel, of 255. */
  readonly largest: number;
}

/** @throws RangeError when they are not of one size */
export function pictureError(a: Pixels, b: Pixels): PictureError {
  if (a.width !== b.width || a.height !== b.height) throw new RangeError('the pictures are not of one size');
  let squares = 0;
  let largest = 0;
  for (let i = 0; i < a.rgba.length; i++) {
    const difference = Math.abs(a.rgba[i]! - b.rgba[i]!);
    squares += difference * difference;
    if (difference > largest) largest = difference;
  }
  return { decibels: 10 * Math.log10((255 * 255 * a.rgba.length) / squares), largest };
}
