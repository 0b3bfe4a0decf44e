/** From packed pixels to plain ones; it needs nothing but the bytes, so that a worker of the page can do it. */
import { unpackWhole } from './blocks/unpack-whole';
import type { PixelFormat } from './pixel-formats';

/** @returns RGBA, four bytes a pixel */
export function unpackPixels(
  format: PixelFormat,
  bytes: Uint8Array,
  width: number,
  height: number,
  from = 0,
): Uint8Array {
  if (format.unpackMany !== undefined) return format.unpackMany(bytes, from, width * height);
  const rgba = new Uint8Array(width * height * 4);
  const { side } = format;
  if (side === 1) {
    const pixel = new Uint8Array(4);
    for (let i = 0; i < width * height; i++) {
      format.unpack(bytes, from + i * format.bytes, pixel);
      rgba.set(pixel, i * 4);
    }
    return rgba;
  }
  if (unpackWhole(format.name, bytes, from, { width, height, rgba })) return rgba;
  const block = new Uint8Array(64);
  let at = from;
  for (let y = 0; y < height; y += 4) {
    for (let x = 0; x < width; x += 4, at += format.bytes) {
      format.unpack(bytes, at, block);
      // What lies outside the picture is left out.
      const wide = Math.min(4, width - x) * 4;
      for (let row = 0; row < 4 && y + row < height; row++)
        for (let i = 0; i < wide; i++) rgba[((y + row) * width + x) * 4 + i] = block[row * 16 + i]!;
    }
  }
  return rgba;
}
