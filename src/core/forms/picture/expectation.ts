/** What the game expects back for a picture, and bringing another picture there. */
import type { Note } from '../../notes';
import { FormatError } from '../../faults';
import type { MipOptions } from './mips';
import { canPack, pictureError, type Quality } from './pack';
import { alphaUse, unpackLevel, wholeChain, type Picture, type Pixels } from './picture';
import type { PixelFormat } from './pixel-formats';
import { chooseFormat } from './choose-format';
import { isNormalMap } from './normal-map';
import { resized } from './raster';

/** Makes the mips and packs them: in a thread, where one is at hand. */
export type Packer = (
  pixels: Pixels,
  format: PixelFormat,
  options: MipOptions & { readonly quality: Quality },
) => Promise<Picture>;

export interface FittedPicture {
  readonly picture: Picture;
  /** What was done to make it fit. */
  readonly notes: readonly Note[];
}

const isPowerOfTwo = (side: number) => (side & (side - 1)) === 0;

/** What may be otherwise than the original, when someone wants that. */
export interface FitFreedom {
  /** Names of the formats that may be chosen by the pixels; the original's is kept without them. */
  readonly formats?: readonly string[] | undefined;
  /** The size of what was brought is kept, as far as the original has powers of two. */
  readonly ownSize?: boolean | undefined;
}

/** What the game expects back, in words. */
export function sayExpectation(original: Picture): string[] {
  const { width, height, mips, format, srgb, faces, layers } = original;
  const powers = isPowerOfTwo(width) && isPowerOfTwo(height) ? '; both are powers of two' : '';
  const lines = [
    `${width} × ${height} pixels${powers}. Another size is made to fit.`,
    `${format.title}, ${srgb ? 'colours in sRGB' : 'plain numbers, not colours'}.`,
  ];
  if (mips > 1)
    lines.push(
      `${mips} mips${mips === wholeChain(width, height) ? ', down to one pixel' : ''}: they are made from what you bring.`,
    );
  if (faces === 6) lines.push('The six faces of a cube.');
  if (layers > 1) lines.push(`${layers} layers.`);
  if (hasAlpha(format)) {
    const use = alphaUse(unpackLevel(original, { mip: 0 }));
    lines.push(
      use === 'none'
        ? 'Alpha is not used.'
        : use === 'cut out'
          ? 'Alpha cuts out: all or nothing.'
          : 'Alpha is used. A file without alpha keeps that of the original.',
    );
  }
  if (!canPack(format)) lines.push(`${format.title} is read and not written: bring a file that has it already.`);
  return lines;
}

const hasAlpha = ({ channels }: PixelFormat) => channels.includes('alpha') || channels === 'rgba';

/**
 * The dropped picture as the original is: its size, pixel format and mips.
 *
 * @throws FormatError `wrong-kind` when that cannot be done
 */
export async function fitPicture(
  original: Picture,
  dropped: Picture,
  name: string,
  { quality, pack, formats, ownSize = false }: { readonly quality: Quality; readonly pack: Packer } & FitFreedom,
): Promise<FittedPicture> {
  if (isAlike(original, dropped) && formats === undefined) return { picture: dropped, notes: [] };
  if (original.faces * original.layers * original.depth > 1)
    throw new FormatError({
      code: 'wrong-kind',
      file: name,
      what: 'a picture of several layers or faces takes only one that has them all',
      expected: `${original.layers} layers, ${original.faces} faces, ${original.format.title}, ${original.mips} mips`,
      found: `${dropped.layers} layers, ${dropped.faces} faces, ${dropped.format.title}, ${dropped.mips} mips`,
      hint: 'Take the original out as DDS, and change that.',
    });
  const { srgb } = original;
  const notes: Note[] = [];
  let pixels = unpackLevel(dropped, { mip: 0 });
  // Nothing of what is seen is another: its mips are not made again either.
  if (formats === undefined && pictureIsSame(unpackLevel(original, { mip: 0 }), pixels))
    return { picture: original, notes };
  const { width, height, mips } = ownSize ? sizeLike(original, pixels) : original;
  if (ownSize && (width !== original.width || height !== original.height))
    notes.push({ code: 'picture-own-size', from: [original.width, original.height], to: [width, height] });
  const chosen = formats === undefined ? undefined : chooseFormat(pixels, formats, srgb);
  const format = chosen?.format ?? original.format;
  if (chosen !== undefined) notes.push({ ...chosen, code: 'picture-packing-chosen', format: format.title });
  if (pixels.width !== width || pixels.height !== height) {
    const stretched = Math.abs(pixels.width / pixels.height - width / height) > 0.01;
    notes.push({
      code: 'picture-resized',
      from: [pixels.width, pixels.height],
      to: [width, height],
      ...(stretched ? { stretched } : {}),
    });
    pixels = await resized(pixels, width, height);
  }
  const sameSize = width === original.width && height === original.height;
  // Where packing was chosen by the pixels, what they have of alpha is what is wanted.
  if (hasAlpha(format) && chosen === undefined && sameSize)
    pixels = withAlpha(pixels, dropped, unpackLevel(original, { mip: 0 }), format, notes);
  const normals = !srgb && isNormalMap(pixels);
  const picture = await pack(pixels, format, { srgb, normals, count: mips, quality });
  const { decibels } = pictureError(unpackLevel(picture, { mip: 0 }), shown(pixels, format));
  notes.push({
    code: 'picture-packed',
    format: format.title,
    decibels: decibels === Infinity ? null : Math.round(decibels * 10) / 10,
  });
  if (mips > 1)
    notes.push({ code: 'picture-mips-made', count: mips, as: srgb ? 'colour' : normals ? 'normals' : 'numbers' });
  return { picture, notes };
}

/** The size of what was brought: powers of two where the original has them, and its whole chain of mips where it has one. */
function sizeLike(original: Picture, { width, height }: Pixels): Pick<Picture, 'width' | 'height' | 'mips'> {
  const powers = isPowerOfTwo(original.width) && isPowerOfTwo(original.height);
  const side = (pixels: number) => (powers ? 2 ** Math.round(Math.log2(pixels)) : pixels);
  const size = { width: side(width), height: side(height) };
  const whole = original.mips === wholeChain(original.width, original.height);
  const most = wholeChain(size.width, size.height);
  return { ...size, mips: whole ? most : Math.min(original.mips, most) };
}

const pictureIsSame = (a: Pixels, b: Pixels) =>
  a.width === b.width && a.height === b.height && a.rgba.every((value, i) => value === b.rgba[i]);

function isAlike(a: Picture, b: Picture): boolean {
  const same = ['width', 'height', 'depth', 'layers', 'faces', 'mips'] as const;
  return a.format.name === b.format.name && same.every((field) => a[field] === b[field]);
}

/** The alpha the game will see: that of the file, of the original where the file has none, or none where none is used. */
function withAlpha(pixels: Pixels, dropped: Picture, original: Pixels, format: PixelFormat, notes: Note[]): Pixels {
  const use = alphaUse(original);
  const rgba = new Uint8Array(pixels.rgba);
  if (use === 'none' && format.name === 'bc1') {
    if (alphaUse(pixels) !== 'none') notes.push({ code: 'picture-alpha-removed' });
    for (let i = 3; i < rgba.length; i += 4) rgba[i] = 255;
  } else if (use !== 'none' && !hasAlpha(dropped.format)) {
    notes.push({ code: 'picture-alpha-kept' });
    for (let i = 3; i < rgba.length; i += 4) rgba[i] = original.rgba[i]!;
  }
  return { ...pixels, rgba };
}

/** The pixels without the channels that a format does not keep. */
function shown({ width, height, rgba }: Pixels, { channels }: PixelFormat): Pixels {
  const out = new Uint8Array(rgba);
  for (let i = 0; i < out.length; i += 4) {
    if (channels === 'r' || channels === 'rg') out[i + 2] = 0;
    if (channels === 'r') out[i + 1] = 0;
    if (!channels.includes('alpha') && channels !== 'rgba') out[i + 3] = 255;
  }
  return { width, height, rgba: out };
}
