/** Pixels that are numbers of colours in a palette. The format's name holds the palette, so that it reaches threads and workers as a text. */
import { LRUCache } from 'lru-cache';
import type { PaletteKind } from '../../recipe';
import type { PixelFormat } from './pixel-format';

/** Formats of indexed pixels, as recipes name them: `index8a8` has a second byte, 0 where the pixel is transparent. */
export const INDEXED = ['index8', 'index8a8'] as const;
export type Indexed = (typeof INDEXED)[number];

export const isIndexed = (name: string): name is Indexed => (INDEXED as readonly string[]).includes(name);

/** Palettes that are kept ready: a game has few. */
const formats = new LRUCache<string, PixelFormat>({ max: 64 });

/**
 * The pixel format of a palette.
 *
 * @param bytes of its colours; up to 256 are used
 */
export function paletteFormat(of: Indexed, bytes: Uint8Array, kind: PaletteKind): PixelFormat {
  return namedPalette(`${of}:${Buffer.from(coloursOf(bytes, kind)).toString('hex')}`)!;
}

/** Grey from black to white, for a palette that is not at hand. */
export function greyPalette(of: Indexed): PixelFormat {
  return paletteFormat(
    of,
    Uint8Array.from({ length: 768 }, (_, i) => Math.floor(i / 3)),
    'rgb8',
  );
}

/** @param name as `paletteFormat` makes it; undefined for any other */
export function namedPalette(name: string): PixelFormat | undefined {
  const known = formats.get(name);
  if (known !== undefined) return known;
  const [of, hex = ''] = name.split(':');
  if (!isIndexed(of!) || !/^([0-9a-f]{8})+$/.test(hex)) return undefined;
  const made = indexedFormat(
    name,
    of,
    Uint8Array.from(hex.match(/../g)!, (byte) => parseInt(byte, 16)),
  );
  formats.set(name, made);
  return made;
}

/** @param colours RGBA, four bytes each */
function indexedFormat(name: string, of: Indexed, colours: Uint8Array): PixelFormat {
  const count = colours.length / 4;
  const last = count - 1;
  const words = new Uint32Array(colours.slice().buffer);
  const mayBeClear = of === 'index8a8';
  const nearest = nearestIn(colours);
  return {
    name,
    palette: { of, colours },
    title: `indexed, ${count} colours${mayBeClear ? ' or transparent' : ''}`,
    side: 1,
    bytes: mayBeClear ? 2 : 1,
    channels: mayBeClear || colours.some((value, i) => i % 4 === 3 && value < 255) ? 'rgba' : 'rgb',
    unpack(bytes, at, out) {
      const from = Math.min(bytes[at]!, last) * 4;
      for (let channel = 0; channel < 4; channel++) out[channel] = colours[from + channel]!;
      if (mayBeClear && bytes[at + 1] === 0) out.fill(0);
    },
    unpackMany(bytes, at, count) {
      const pixels = new Uint32Array(count);
      const step = mayBeClear ? 2 : 1;
      for (let i = 0; i < count; i++, at += step)
        if (!mayBeClear || bytes[at + 1] !== 0) pixels[i] = words[Math.min(bytes[at]!, last)]!;
      return new Uint8Array(pixels.buffer);
    },
    pack(rgba, from, out, at) {
      if (!mayBeClear) out[at] = nearest(rgba, from);
      else if (rgba[from + 3]! >= 128) {
        out[at] = nearest(rgba, from);
        out[at + 1] = 255;
      } else out.fill(0, at, at + 2);
    },
  };
}

/** The number of the nearest colour, the first of equal ones; what was asked before is kept. */
function nearestIn(colours: Uint8Array): (rgba: Uint8Array, at: number) => number {
  const found = new Map<number, number>();
  return (rgba, at) => {
    const key = (rgba[at]! << 16) | (rgba[at + 1]! << 8) | rgba[at + 2]!;
    const known = found.get(key);
    if (known !== undefined) return known;
    let best = 0;
    let least = Infinity;
    for (let i = 0; i < colours.length; i += 4) {
      const [red, green, blue] = [0, 1, 2].map((c) => colours[i + c]! - rgba[at + c]!) as [number, number, number];
      // Differences of green are seen best, those of blue worst.
      const far = 2 * red * red + 4 * green * green + blue * blue;
      if (far < least) [best, least] = [i / 4, far];
    }
    found.set(key, best);
    return best;
  };
}

/** RGBA, at most 256 colours; none but black where the palette is empty. */
function coloursOf(bytes: Uint8Array, kind: PaletteKind): Uint8Array {
  const size = kind.startsWith('rgba') || kind.startsWith('bgra') ? 4 : 3;
  const count = Math.max(1, Math.min(256, Math.floor(bytes.length / size)));
  const out = new Uint8Array(count * 4);
  const value = (at: number) => (kind === 'rgb6' ? Math.round(((bytes[at] ?? 0) * 255) / 63) : (bytes[at] ?? 0));
  for (let i = 0; i < count; i++) {
    const [first, second, third] = [0, 1, 2].map((c) => value(i * size + c)) as [number, number, number];
    const alpha = size === 4 ? value(i * size + 3) : 255;
    out.set(kind.startsWith('b') ? [third, second, first, alpha] : [first, second, third, alpha], i * 4);
  }
  return out;
}
