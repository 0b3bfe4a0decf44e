/** How pixels lie in a file: one by one, by the bits of each channel, or in blocks of 4 × 4. */
import { decodeBc1, decodeBc2, decodeBc3, decodeBc4, decodeBc5 } from './blocks/decode-colour';
import { decodeBc6hSigned, decodeBc6hUnsigned } from './blocks/decode-bc6h';
import { decodeBc7 } from './blocks/decode-bc7';
import { namedPalette } from './palette';
import type { Channels, PixelFormat } from './pixel-format';

export type { PixelFormat } from './pixel-format';

/** Bits of red, green, blue and alpha in a pixel, the lowest byte first; 0 for a channel that is not there. */
export type Masks = readonly [red: number, green: number, blue: number, alpha: number];

/**
 * A format whose channels are some bits of a whole number.
 *
 * @param bits 8, 16, 24 or 32 a pixel
 */
export function masked(name: string, title: string, bits: number, masks: Masks, channels: Channels): PixelFormat {
  const bytes = bits / 8;
  const parts = masks.map((mask) => {
    const shift = mask === 0 ? 0 : 31 - Math.clz32(mask & -mask);
    const most = mask === 0 ? 0 : (mask >>> shift) >>> 0;
    return { mask, shift, most };
  });
  const grey = channels === 'grey' || channels === 'grey alpha';
  const channelParts = [0, 1, 2, 3].map((channel) => parts[grey && channel < 3 ? 0 : channel]!);
  const unpackMany = unpackByTables(bytes, channelParts);
  return {
    name,
    title,
    side: 1,
    bytes,
    channels,
    unpack(from, at, out) {
      let value = 0;
      for (let i = bytes - 1; i >= 0; i--) value = (value << 8) | from[at + i]!;
      for (let channel = 0; channel < 4; channel++) {
        const { mask, shift, most } = channelParts[channel]!;
        out[channel] =
          most === 0
            ? channel === 3
              ? 255
              : 0
            : most === 255
              ? (value & mask) >>> shift
              : Math.round((((value & mask) >>> shift) * 255) / most);
      }
    },
    ...(unpackMany === undefined ? {} : { unpackMany }),
    pack(rgba, from, out, at) {
      let value = 0;
      for (let channel = 0; channel < 4; channel++) {
        const { shift, most } = parts[channel]!;
        if (most === 0) continue;
        const eight =
          grey && channel === 0
            ? Math.round(0.2126 * rgba[from]! + 0.7152 * rgba[from + 1]! + 0.0722 * rgba[from + 2]!)
            : rgba[from + channel]!;
        value |= Math.round((eight * most) / 255) << shift;
      }
      for (let i = 0; i < bytes; i++) out[at + i] = (value >>> (i * 8)) & 255;
    },
  };
}

interface ChannelBits {
  readonly shift: number;
  /** The greatest value; 0 where there is no such channel. */
  readonly most: number;
}

const MOST_IN_TABLE = 0xffff;

/** Each channel is looked up by its bits; undefined where one has more of them than a table should. */
function unpackByTables(
  bytes: number,
  parts: readonly ChannelBits[],
): NonNullable<PixelFormat['unpackMany']> | undefined {
  if (parts.some(({ most }) => most > MOST_IN_TABLE)) return undefined;
  // Each table has its bytes where they lie in a pixel of RGBA.
  const [reds, greens, blues, alphas] = parts.map(({ most }, channel) =>
    Uint32Array.from({ length: most + 1 }, (_, value) => {
      const eight = most === 0 ? (channel === 3 ? 255 : 0) : Math.round((value * 255) / most);
      return eight << (8 * channel);
    }),
  ) as [Uint32Array, Uint32Array, Uint32Array, Uint32Array];
  const [red, green, blue, alpha] = parts as [ChannelBits, ChannelBits, ChannelBits, ChannelBits];
  return (from, at, count) => {
    const values = wordsOf(from, at, count, bytes);
    const pixels = new Uint32Array(count);
    for (let i = 0; i < count; i++) {
      const value = values[i]!;
      pixels[i] =
        reds[(value >>> red.shift) & red.most]! |
        greens[(value >>> green.shift) & green.most]! |
        blues[(value >>> blue.shift) & blue.most]! |
        alphas[(value >>> alpha.shift) & alpha.most]!;
    }
    return new Uint8Array(pixels.buffer);
  };
}

/** Numbers of one to four bytes, the lowest first. */
function wordsOf(from: Uint8Array, at: number, count: number, bytes: number): Uint8Array | Uint16Array | Uint32Array {
  const stored = new Uint8Array(count * bytes);
  stored.set(from.subarray(at, at + count * bytes));
  if (bytes === 1) return stored;
  if (bytes === 2) return new Uint16Array(stored.buffer, 0, count);
  if (bytes === 4) return new Uint32Array(stored.buffer, 0, count);
  const words = new Uint32Array(count);
  for (let i = 0, k = 0; i < count; i++, k += 3) words[i] = stored[k]! | (stored[k + 1]! << 8) | (stored[k + 2]! << 16);
  return words;
}

const blocks = (
  name: string,
  title: string,
  bytes: number,
  channels: Channels,
  unpack: PixelFormat['unpack'],
): PixelFormat => ({ name, title, side: 4, bytes, channels, unpack });

/** Blocks of colours that alpha is multiplied into, as they are without it. */
function divided(unpack: PixelFormat['unpack']): PixelFormat['unpack'] {
  return (from, at, out) => {
    unpack(from, at, out);
    for (let i = 0; i < out.length; i += 4) {
      const alpha = out[i + 3]!;
      for (let c = 0; c < 3; c++) out[i + c] = alpha === 0 ? 0 : Math.min(255, Math.round((out[i + c]! * 255) / alpha));
    }
  };
}

const FORMATS: readonly PixelFormat[] = [
  masked('rgba8', 'RGBA 8 bit', 32, [0xff, 0xff00, 0xff0000, 0xff000000], 'rgba'),
  masked('bgra8', 'BGRA 8 bit', 32, [0xff0000, 0xff00, 0xff, 0xff000000], 'rgba'),
  masked('bgrx8', 'BGRX 8 bit', 32, [0xff0000, 0xff00, 0xff, 0], 'rgb'),
  masked('rgb8', 'RGB 8 bit', 24, [0xff, 0xff00, 0xff0000, 0], 'rgb'),
  masked('bgr8', 'BGR 8 bit', 24, [0xff0000, 0xff00, 0xff, 0], 'rgb'),
  masked('rgb565', 'RGB 5:6:5', 16, [0xf800, 0x7e0, 0x1f, 0], 'rgb'),
  masked('bgra5551', 'RGBA 5:5:5:1', 16, [0x7c00, 0x3e0, 0x1f, 0x8000], 'rgba'),
  masked('bgra4', 'RGBA 4:4:4:4', 16, [0xf00, 0xf0, 0xf, 0xf000], 'rgba'),
  masked('r8', 'red 8 bit', 8, [0xff, 0, 0, 0], 'r'),
  masked('rg8', 'red and green 8 bit', 16, [0xff, 0xff00, 0, 0], 'rg'),
  masked('grey8', 'grey 8 bit', 8, [0xff, 0, 0, 0], 'grey'),
  masked('grey8a8', 'grey and alpha 8 bit', 16, [0xff, 0, 0, 0xff00], 'grey alpha'),
  masked('a8', 'alpha 8 bit', 8, [0, 0, 0, 0xff], 'alpha'),
  blocks('bc1', 'BC1', 8, 'rgba', decodeBc1),
  blocks('bc2', 'BC2', 16, 'rgba', decodeBc2),
  blocks('bc3', 'BC3', 16, 'rgba', decodeBc3),
  blocks('bc4', 'BC4', 8, 'r', decodeBc4),
  blocks('bc5', 'BC5', 16, 'rg', decodeBc5),
  blocks('bc6h', 'BC6H, values from 0 on', 16, 'rgb', decodeBc6hUnsigned),
  blocks('bc6hs', 'BC6H, values on both sides of 0', 16, 'rgb', decodeBc6hSigned),
  blocks('bc7', 'BC7', 16, 'rgba', decodeBc7),
  blocks('bc2p', 'BC2, alpha multiplied in', 16, 'rgba', divided(decodeBc2)),
  blocks('bc3p', 'BC3, alpha multiplied in', 16, 'rgba', divided(decodeBc3)),
];
const BY_NAME = new Map(FORMATS.map((format) => [format.name, format]));

export const pixelFormatNames = (): string[] => [...BY_NAME.keys()];

/** @param name of one of them, or of a palette, as `paletteFormat` makes it */
export const findPixelFormat = (name: string): PixelFormat | undefined =>
  BY_NAME.get(name) ?? namedPalette(name) ?? namedMasks(name);

/** Colours of red, green and blue in whole numbers, which files state by their masks. */
const MASKS: Readonly<Record<string, string>> = {
  'masks 24 ff0000 ff00 ff 0': 'bgr8',
  'masks 32 ff0000 ff00 ff 0': 'bgrx8',
  'masks 32 ff0000 ff00 ff ff000000': 'bgra8',
  'masks 16 f800 7e0 1f 0': 'rgb565',
  'masks 16 7c00 3e0 1f 8000': 'bgra5551',
};

/** @param bits 16, 24 or 32 a pixel. The name holds the masks, so that it reaches threads and workers as a text. */
export function maskedFormat(bits: number, masks: Masks): PixelFormat {
  const name = `masks ${bits} ${masks.map((mask) => (mask >>> 0).toString(16)).join(' ')}`;
  return findPixelFormat(MASKS[name] ?? name)!;
}

function namedMasks(name: string): PixelFormat | undefined {
  const [of, bits, ...masks] = name.split(' ');
  if (of !== 'masks' || masks.length !== 4) return undefined;
  const [red, green, blue, alpha] = masks.map((mask) => parseInt(mask, 16)) as [number, number, number, number];
  const title = `${bits} bits a pixel${alpha === 0 ? '' : ' with alpha'}`;
  return masked(name, title, Number(bits), [red, green, blue, alpha], alpha === 0 ? 'rgb' : 'rgba');
}

/** Bytes of a picture of that size, without mips. */
export function levelBytes({ side, bytes }: PixelFormat, width: number, height: number): number {
  return Math.ceil(width / side) * Math.ceil(height / side) * bytes;
}
