/** A picture as games keep it: packed pixels of every mip, of one layer or several, of one face or the six of a cube. */
import { FormatError, LimitError } from '../../faults';
import { levelBytes, type PixelFormat } from './pixel-formats';
import { unpackPixels } from './unpack';

export interface Picture {
  readonly width: number;
  readonly height: number;
  /** Slices of the largest mip of a volume; 1 for a flat picture. */
  readonly depth: number;
  readonly layers: number;
  /** 6 for a cube: +x, −x, +y, −y, +z, −z. */
  readonly faces: 1 | 6;
  readonly mips: number;
  readonly format: PixelFormat;
  /** True when its colours are sRGB; plain numbers otherwise. */
  readonly srgb: boolean;
  /** The packed bytes by layer, then face, then mip; slices of a volume lie one after the other. */
  readonly levels: readonly Uint8Array[];
}

/** Pixels of eight bits, red, green, blue, alpha, row by row from the upper left. Alpha is not multiplied in. */
export interface Pixels {
  readonly width: number;
  readonly height: number;
  readonly rgba: Uint8Array;
}

/** Which of a picture's levels. */
export interface LevelPlace {
  readonly mip: number;
  readonly layer?: number;
  readonly face?: number;
  readonly slice?: number;
}

/** The side of a mip: half of the one before, rounded down, and at least 1. */
export const mipSide = (side: number, mip: number): number => Math.max(1, side >>> mip);

/** Mips of a whole chain, down to a single pixel. */
export const wholeChain = (width: number, height: number, depth = 1): number =>
  32 - Math.clz32(Math.max(width, height, depth));

/** Pixels along a side at most: what graphics cards take. */
const MOST_PIXELS = 16_384;
/** Layers at most, as Direct3D 11 has it. */
const MOST_LAYERS = 2048;

/** @throws LimitError or FormatError for sizes that no picture has, before anything of that size is made */
export function checkSizes(
  file: string,
  sizes: { width: number; height: number; depth?: number; layers?: number; mips: number },
): void {
  const { width, height, depth = 1, layers = 1, mips } = sizes;
  for (const [field, value] of Object.entries({ width, height, depth })) {
    if (!Number.isInteger(value) || value < 1)
      throw new FormatError({
        code: 'wrong-kind',
        file,
        field,
        what: 'the picture has no pixels',
        found: String(value),
      });
    if (value > MOST_PIXELS)
      throw new LimitError({
        code: 'limit-reached',
        file,
        what: `the ${field} of the picture is too large`,
        found: `${value.toLocaleString('en')} pixels`,
        limit: `pixels along a side, ${MOST_PIXELS.toLocaleString('en')}`,
      });
  }
  if (layers < 1 || layers > MOST_LAYERS)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      field: 'layers',
      expected: `1 to ${MOST_LAYERS}`,
      found: String(layers),
    });
  const most = wholeChain(width, height, depth);
  if (mips < 1 || mips > most)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      field: 'mips',
      expected: `1 to ${most} for ${width} × ${height}`,
      found: String(mips),
    });
}

/** Bytes of one mip of one layer and face, with all its slices. */
export function mipBytes({ format, width, height, depth }: Omit<Picture, 'levels'>, mip: number): number {
  return levelBytes(format, mipSide(width, mip), mipSide(height, mip)) * mipSide(depth, mip);
}

/** One level unpacked. */
export function unpackLevel(picture: Picture, { mip, layer = 0, face = 0, slice = 0 }: LevelPlace): Pixels {
  const { format, mips, faces } = picture;
  const width = mipSide(picture.width, mip);
  const height = mipSide(picture.height, mip);
  const bytes = picture.levels[(layer * faces + face) * mips + mip]!;
  return { width, height, rgba: unpackPixels(format, bytes, width, height, slice * levelBytes(format, width, height)) };
}

/** How alpha is used: not at all, as all or nothing, or in steps. */
export function alphaUse({ rgba }: Pixels): 'none' | 'cut out' | 'steps' {
  let clear = false;
  for (let i = 3; i < rgba.length; i += 4) {
    const alpha = rgba[i]!;
    if (alpha === 0) clear = true;
    else if (alpha !== 255) return 'steps';
  }
  return clear ? 'cut out' : 'none';
}

/** A picture of one level from pixels that lie one by one. */
export function flatPicture(pixels: Pixels, format: PixelFormat, srgb: boolean): Picture {
  const level = format.name === 'rgba8' ? pixels.rgba : packOneByOne(format, pixels);
  return { ...pixels, depth: 1, layers: 1, faces: 1, mips: 1, format, srgb, levels: [level] };
}

/** @throws RangeError for a format of blocks */
export function packOneByOne(format: PixelFormat, { width, height, rgba }: Pixels): Uint8Array {
  if (format.pack === undefined) throw new RangeError(`${format.name} lies in blocks`);
  const out = new Uint8Array(width * height * format.bytes);
  for (let i = 0; i < width * height; i++) format.pack(rgba, i * 4, out, i * format.bytes);
  return out;
}
