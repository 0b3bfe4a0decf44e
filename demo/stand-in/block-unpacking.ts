/** What the graphics card makes of blocks: pixels of red, green, blue and alpha, a byte each. */
import type { Texture } from './tex-reader';

export function unpackTexture({ width, height, packing, pixels }: Texture): Buffer {
  if (packing.side === 1) return Buffer.from(pixels);
  const out = Buffer.alloc(width * height * 4);
  const across = Math.ceil(width / 4);
  for (let block = 0; block * packing.bytes < pixels.length; block++) {
    const bytes = pixels.subarray(block * packing.bytes, (block + 1) * packing.bytes);
    const colours = bytes.subarray(packing.bytes - 8);
    const palette = paletteOf(colours.readUInt16LE(0), colours.readUInt16LE(2), packing.name === 'BC1');
    const alphas = packing.name === 'BC3' ? alphaSteps(bytes[0]!, bytes[1]!) : undefined;
    const alphaBits = bytes.readUIntLE(2, 6);
    for (let pixel = 0; pixel < 16; pixel++) {
      const x = (block % across) * 4 + (pixel % 4);
      const y = Math.floor(block / across) * 4 + (pixel >> 2);
      if (x >= width || y >= height) continue;
      const colour = palette[(colours[4 + (pixel >> 2)]! >> ((pixel % 4) * 2)) & 3]!;
      const at = (y * width + x) * 4;
      for (const [channel, value] of colour.entries()) out[at + channel] = value;
      if (alphas !== undefined) out[at + 3] = alphas[Math.floor(alphaBits / 8 ** pixel) % 8]!;
    }
  }
  return out;
}

function paletteOf(first: number, second: number, punches: boolean): number[][] {
  const [a, b] = [wide(first), wide(second)];
  const between = (part: number) => a.map((value, i) => Math.round(value + (b[i]! - value) * part));
  if (punches && first <= second) return [a, b, between(1 / 2), [0, 0, 0, 0]];
  return [a, b, between(1 / 3), between(2 / 3)];
}

const wide = (colour: number): number[] => [
  Math.round(((colour >> 11) * 255) / 31),
  Math.round((((colour >> 5) & 63) * 255) / 63),
  Math.round(((colour & 31) * 255) / 31),
  255,
];

function alphaSteps(first: number, second: number): number[] {
  const count = first > second ? 7 : 5;
  const between = Array.from({ length: count - 1 }, (_, i) => Math.round(first + ((second - first) * (i + 1)) / count));
  return [first, second, ...between, ...(count === 5 ? [0, 255] : [])];
}
