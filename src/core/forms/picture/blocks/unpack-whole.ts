/**
 * Whole pictures of BC1 to BC3 at once: the same as block by block, without the copy from a block into the picture, which is
 * most of the time.
 */
import { channelLevels, expand565 } from './decode-colour';

const ends = new Uint8Array(8);
const palette = new Uint32Array(4);
const levels = new Uint8Array(8);

/** Where the lowest byte of a number comes first: on every machine a browser or Node runs on. */
const OPAQUE = 0xff000000;

const colour = (r: number, g: number, b: number) => (OPAQUE | (b << 16) | (g << 8) | r) >>> 0;

function takePalette(bytes: Uint8Array, at: number, fourColours: boolean): void {
  const first = bytes[at]! | (bytes[at + 1]! << 8);
  const second = bytes[at + 2]! | (bytes[at + 3]! << 8);
  expand565(first, ends, 0);
  expand565(second, ends, 4);
  const [r, g, b] = [ends[0]!, ends[1]!, ends[2]!];
  const [x, y, z] = [ends[4]!, ends[5]!, ends[6]!];
  palette[0] = colour(r, g, b);
  palette[1] = colour(x, y, z);
  if (fourColours || first > second) {
    palette[2] = colour(((2 * r + x + 1) / 3) | 0, ((2 * g + y + 1) / 3) | 0, ((2 * b + z + 1) / 3) | 0);
    palette[3] = colour(((r + 2 * x + 1) / 3) | 0, ((g + 2 * y + 1) / 3) | 0, ((b + 2 * z + 1) / 3) | 0);
  } else {
    palette[2] = colour((r + x) >> 1, (g + y) >> 1, (b + z) >> 1);
    palette[3] = 0;
  }
}

/** The colours of all blocks; every side is a multiple of 4. */
function colours(
  { bytes, from, size, skip }: { bytes: Uint8Array; from: number; size: number; skip: number },
  out: Uint32Array,
  width: number,
  height: number,
): void {
  let at = from + skip;
  for (let y = 0; y < height; y += 4)
    for (let x = 0; x < width; x += 4, at += size) {
      takePalette(bytes, at, skip > 0);
      let to = y * width + x;
      for (let row = 4; row < 8; row++, to += width) {
        const indices = bytes[at + row]!;
        out[to] = palette[indices & 3]!;
        out[to + 1] = palette[(indices >> 2) & 3]!;
        out[to + 2] = palette[(indices >> 4) & 3]!;
        out[to + 3] = palette[indices >> 6]!;
      }
    }
}

/** One channel of eight steps of all blocks, into every fourth byte. */
function channel(bytes: Uint8Array, from: number, size: number, out: Uint8Array, width: number, height: number): void {
  let at = from;
  for (let y = 0; y < height; y += 4)
    for (let x = 0; x < width; x += 4, at += size) {
      channelLevels(bytes[at]!, bytes[at + 1]!, levels);
      let to = (y * width + x) * 4 + 3;
      for (let half = 2; half < 8; half += 3) {
        let bits = bytes[at + half]! | (bytes[at + half + 1]! << 8) | (bytes[at + half + 2]! << 16);
        for (let row = 0; row < 2; row++, to += width * 4)
          for (let i = 0; i < 16; i += 4, bits >>= 3) out[to + i] = levels[bits & 7]!;
      }
    }
}

/**
 * @param rgba takes the pixels
 * @returns false when the format or the size is none that this does
 */
export function unpackWhole(
  name: string,
  bytes: Uint8Array,
  from: number,
  { width, height, rgba }: { readonly width: number; readonly height: number; readonly rgba: Uint8Array },
): boolean {
  if ((name !== 'bc1' && name !== 'bc3') || width % 4 !== 0 || height % 4 !== 0) return false;
  const out = new Uint32Array(rgba.buffer, rgba.byteOffset, width * height);
  if (name === 'bc1') colours({ bytes, from, size: 8, skip: 0 }, out, width, height);
  else {
    colours({ bytes, from, size: 16, skip: 8 }, out, width, height);
    channel(bytes, from, 16, rgba, width, height);
  }
  return true;
}
