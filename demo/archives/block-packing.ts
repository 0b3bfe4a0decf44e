/**
 * Packs pixels into the blocks that graphics cards read: 4 × 4 pixels in 8 or 16 bytes. Plain and quick, as a game's own
 * tools often are: the two ends of a block's colours are its darkest and its brightest.
 */
import type { ArchiveEntry } from './entry';

export interface Pixels {
  readonly width: number;
  readonly height: number;
  /** Red, green, blue and alpha, a byte each, row by row. */
  readonly bytes: ArchiveEntry['bytes'];
}

/** 8 bytes a block: two colours in 565 and 16 indices of 2 bits; no alpha. */
export function packBc1(pixels: Pixels): Buffer {
  return blocks(pixels, 8, (block, out, at) => colourBlock(block, out, at));
}

/** 16 bytes a block: alpha in 8 steps, then colour as in BC1. */
export function packBc3(pixels: Pixels): Buffer {
  return blocks(pixels, 16, (block, out, at) => {
    alphaBlock(block, out, at);
    colourBlock(block, out, at + 8);
  });
}

function blocks(
  { width, height, bytes }: Pixels,
  size: number,
  pack: (block: Uint8Array, out: Buffer, at: number) => void,
): Buffer {
  const across = Math.ceil(width / 4);
  const down = Math.ceil(height / 4);
  const out = Buffer.alloc(across * down * size);
  const block = new Uint8Array(64);
  for (let i = 0; i < across * down; i++) {
    for (let pixel = 0; pixel < 16; pixel++) {
      // Beyond the edge of a small mip the last pixel is repeated.
      const x = Math.min((i % across) * 4 + (pixel % 4), width - 1);
      const y = Math.min(Math.floor(i / across) * 4 + (pixel >> 2), height - 1);
      block.set(bytes.subarray((y * width + x) * 4, (y * width + x) * 4 + 4), pixel * 4);
    }
    pack(block, out, i * size);
  }
  return out;
}

function colourBlock(block: Uint8Array, out: Buffer, at: number): void {
  const brightness = (pixel: number) => block[pixel * 4]! * 3 + block[pixel * 4 + 1]! * 6 + block[pixel * 4 + 2]!;
  let dark = 0;
  let bright = 0;
  for (let pixel = 1; pixel < 16; pixel++) {
    if (brightness(pixel) < brightness(dark)) dark = pixel;
    if (brightness(pixel) > brightness(bright)) bright = pixel;
  }
  let first = to565(block, bright);
  let second = to565(block, dark);
  // The larger number first: that order means four colours and no hole.
  if (first < second) [first, second] = [second, first];
  out.writeUInt16LE(first, at);
  out.writeUInt16LE(second, at + 2);
  if (first === second) return;
  const ends = [from565(first), from565(second)];
  const colours = [ends[0]!, ends[1]!, mix(ends[0]!, ends[1]!, 1 / 3), mix(ends[0]!, ends[1]!, 2 / 3)];
  for (let pixel = 0; pixel < 16; pixel++) {
    const distance = colours.map((colour) =>
      colour.reduce((sum, value, channel) => sum + (value - block[pixel * 4 + channel]!) ** 2, 0),
    );
    out[at + 4 + (pixel >> 2)]! |= distance.indexOf(Math.min(...distance)) << ((pixel % 4) * 2);
  }
}

const to565 = (block: Uint8Array, pixel: number) =>
  ((block[pixel * 4]! >> 3) << 11) | ((block[pixel * 4 + 1]! >> 2) << 5) | (block[pixel * 4 + 2]! >> 3);

const from565 = (colour: number): number[] => [
  ((colour >> 11) * 255) / 31,
  (((colour >> 5) & 63) * 255) / 63,
  ((colour & 31) * 255) / 31,
];

const mix = (from: number[], to: number[], part: number) =>
  from.map((value, channel) => value + (to[channel]! - value) * part);

function alphaBlock(block: Uint8Array, out: Buffer, at: number): void {
  const alphas = Array.from({ length: 16 }, (_, pixel) => block[pixel * 4 + 3]!);
  const high = Math.max(...alphas);
  const low = Math.min(...alphas);
  out[at] = high;
  out[at + 1] = low;
  if (high === low) return;
  let bits = 0n;
  for (const [pixel, alpha] of alphas.entries()) {
    const step = Math.round(((high - alpha) * 7) / (high - low));
    // Index 0 is the high end, 1 the low one, 2 to 7 lie between.
    const index = step === 0 ? 0 : step === 7 ? 1 : step + 1;
    bits |= BigInt(index) << BigInt(pixel * 3);
  }
  out.writeUIntLE(Number(bits & 0xffffffffffffn), at + 2, 6);
}
