/** PNG, JPEG, WebP and GIF through the library for them; for the server and the command line. */
import sharp from 'sharp';
import { FormatError } from '../../faults';
import type { Pixels } from './picture';

/** Pixels that are read at most. */
const MOST_PIXELS = 128 << 20;

/** @throws FormatError `wrong-kind` when the bytes are no picture, or a broken one */
export async function readRaster(bytes: Uint8Array, file: string): Promise<Pixels & { readonly hasAlpha: boolean }> {
  try {
    const picture = sharp(bytes, { limitInputPixels: MOST_PIXELS, failOn: 'error' });
    const { hasAlpha } = await picture.metadata();
    const { data, info } = await picture
      .rotate()
      .toColourspace('srgb')
      .ensureAlpha()
      .raw({ depth: 'uchar' })
      .toBuffer({ resolveWithObject: true });
    return {
      width: info.width,
      height: info.height,
      rgba: new Uint8Array(data.buffer, data.byteOffset, data.length),
      hasAlpha,
    };
  } catch (error) {
    throw new FormatError(
      {
        code: 'wrong-kind',
        file,
        what: `the picture cannot be read (${(error as Error).message.split('\n')[0]})`,
        hint: 'Is it whole? Save it again as PNG.',
      },
      { cause: error },
    );
  }
}

const raw = ({ width, height, rgba }: Pixels) => sharp(rgba, { raw: { width, height, channels: 4 } });

export async function writePng(pixels: Pixels): Promise<Uint8Array> {
  return raw(pixels).png({ compressionLevel: 6, palette: false }).toBuffer();
}

/** A small WebP that fits into a frame. */
export async function smallWebp(pixels: Pixels, width: number, height: number): Promise<Uint8Array> {
  return raw(pixels)
    .resize(width, height, { fit: 'inside', withoutEnlargement: true })
    .webp({ quality: 82, effort: 2 })
    .toBuffer();
}

/** The picture in another size. */
export async function resized(pixels: Pixels, width: number, height: number): Promise<Pixels> {
  const data = await raw(pixels).resize(width, height, { fit: 'fill', kernel: 'lanczos3' }).raw().toBuffer();
  return { width, height, rgba: new Uint8Array(data.buffer, data.byteOffset, data.length) };
}
