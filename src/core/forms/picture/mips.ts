/** Making the smaller mips of a picture. */
import { mipSide, wholeChain, type Pixels } from './picture';

export interface MipOptions {
  /** Colours are made lighter and darker as light is: sRGB is taken apart first. */
  readonly srgb: boolean;
  /** Red, green and blue are a direction, which stays one of length 1. */
  readonly normals?: boolean;
  /** How many, with the largest; the whole chain without it. */
  readonly count?: number;
}

/** sRGB to light, IEC 61966-2-1, for each byte. */
const LIGHT = Float32Array.from({ length: 256 }, (_, i) => {
  const value = i / 255;
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
});

function toSrgb(light: number): number {
  const value = light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055;
  return Math.round(value * 255);
}

/**
 * The picture and its halves. Every pixel is the mean of those it covers; transparent ones lend no colour to their
 * neighbours.
 */
export function makeMips(full: Pixels, options: MipOptions): Pixels[] {
  const count = options.count ?? wholeChain(full.width, full.height);
  const mips = [full];
  for (let mip = 1; mip < count; mip++)
    mips.push(half(mips[mip - 1]!, mipSide(full.width, mip), mipSide(full.height, mip), options));
  return mips;
}

function half({ width, height, rgba }: Pixels, newWidth: number, newHeight: number, options: MipOptions): Pixels {
  const { srgb, normals = false } = options;
  const out = new Uint8Array(newWidth * newHeight * 4);
  const sum = new Float64Array(3);
  const plain = new Float64Array(3);
  for (let y = 0; y < newHeight; y++) {
    const [y0, y1] = covered(y, newHeight, height);
    for (let x = 0; x < newWidth; x++) {
      const [x0, x1] = covered(x, newWidth, width);
      sum.fill(0);
      plain.fill(0);
      let alpha = 0;
      for (let row = y0; row < y1; row++) {
        for (let column = x0; column < x1; column++) {
          const at = (row * width + column) * 4;
          // The alpha of a normal map is no transparency.
          const weight = normals ? 255 : rgba[at + 3]!;
          alpha += rgba[at + 3]!;
          for (let channel = 0; channel < 3; channel++) {
            const byte = rgba[at + channel]!;
            const value = srgb ? LIGHT[byte]! : byte / 255;
            sum[channel]! += value * weight;
            plain[channel]! += value;
          }
        }
      }
      const pixels = (y1 - y0) * (x1 - x0);
      const weights = normals ? pixels * 255 : alpha;
      const at = (y * newWidth + x) * 4;
      for (let channel = 0; channel < 3; channel++) {
        const mean = weights > 0 ? sum[channel]! / weights : plain[channel]! / pixels;
        out[at + channel] = srgb ? toSrgb(mean) : Math.round(mean * 255);
      }
      out[at + 3] = Math.round(alpha / pixels);
      if (normals) straighten(out, at);
    }
  }
  return { width: newWidth, height: newHeight, rgba: out };
}

/** The pixels one of a smaller mip covers; of an odd side the last one covers three. */
function covered(place: number, newSide: number, side: number): [from: number, to: number] {
  if (side === 1) return [0, 1];
  return [place * 2, place === newSide - 1 ? side : place * 2 + 2];
}

/** Makes a direction that is kept as bytes one of length 1 again. */
function straighten(rgba: Uint8Array, at: number): void {
  const x = rgba[at]! / 127.5 - 1;
  const y = rgba[at + 1]! / 127.5 - 1;
  const z = rgba[at + 2]! / 127.5 - 1;
  const length = Math.hypot(x, y, z);
  if (length < 1e-3) return;
  rgba[at] = Math.round((x / length + 1) * 127.5);
  rgba[at + 1] = Math.round((y / length + 1) * 127.5);
  rgba[at + 2] = Math.round((z / length + 1) * 127.5);
}
