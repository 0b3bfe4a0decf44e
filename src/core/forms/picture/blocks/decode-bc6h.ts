/** Decoding of BC6H: Khronos Data Format Specification 1.3, section 20.2. Halves of floats, shown as eight bits of sRGB. */
import { BlockBits, isAnchor, subsetOf, WEIGHTS } from './bptc-tables';

interface Mode {
  readonly subsets: 1 | 2;
  /** Bits of the first end; the others have these, or are differences of fewer bits. */
  readonly base: number;
  readonly deltas: readonly [red: number, green: number, blue: number];
  readonly differences: boolean;
  /** Which bit of which end comes next: channel, end (w, x, y, z) and bits, the lowest first. */
  readonly layout: readonly { readonly to: number; readonly bit: number }[];
}

/** `rw9:0` is ten bits from the lowest on; `rw10:15` six bits from the highest on. */
function layoutOf(text: string): Mode['layout'] {
  return text.split(' ').flatMap((token) => {
    const [, channel, end, from, to] = /^([rgb])([wxyz])(\d+)(?::(\d+))?$/.exec(token)!;
    const place = 'wxyz'.indexOf(end!) * 3 + 'rgb'.indexOf(channel!);
    const [high, low] = [Number(from), Number(to ?? from)];
    const count = Math.abs(high - low) + 1;
    return Array.from({ length: count }, (_, i) => ({ to: place, bit: high >= low ? low + i : low - i }));
  });
}

const mode = (
  [base, ...deltas]: readonly [number, number, number, number],
  differences: boolean,
  layout: string,
): Mode => ({ subsets: layout.includes('ry') ? 2 : 1, base, deltas, differences, layout: layoutOf(layout) });

const WHOLE = 'rw9:0 gw9:0 bw9:0';

/** By the number in the first two or five bits. */
const MODES: ReadonlyMap<number, Mode> = new Map([
  [
    0b00,
    mode(
      [10, 5, 5, 5],
      true,
      `gy4 by4 bz4 ${WHOLE} rx4:0 gz4 gy3:0 gx4:0 bz0 gz3:0 bx4:0 bz1 by3:0 ry4:0 bz2 rz4:0 bz3`,
    ),
  ],
  [
    0b01,
    mode(
      [7, 6, 6, 6],
      true,
      'gy5 gz4 gz5 rw6:0 bz0 bz1 by4 gw6:0 by5 bz2 gy4 bw6:0 bz3 bz5 bz4 rx5:0 gy3:0 gx5:0 gz3:0 bx5:0 by3:0 ry5:0 rz5:0',
    ),
  ],
  [
    0b00010,
    mode(
      [11, 5, 4, 4],
      true,
      `${WHOLE} rx4:0 rw10 gy3:0 gx3:0 gw10 bz0 gz3:0 bx3:0 bw10 bz1 by3:0 ry4:0 bz2 rz4:0 bz3`,
    ),
  ],
  [
    0b00110,
    mode(
      [11, 4, 5, 4],
      true,
      `${WHOLE} rx3:0 rw10 gz4 gy3:0 gx4:0 gw10 gz3:0 bx3:0 bw10 bz1 by3:0 ry3:0 bz0 bz2 rz3:0 gy4 bz3`,
    ),
  ],
  [
    0b01010,
    mode(
      [11, 4, 4, 5],
      true,
      `${WHOLE} rx3:0 rw10 by4 gy3:0 gx3:0 gw10 bz0 gz3:0 bx4:0 bw10 by3:0 ry3:0 bz1 bz2 rz3:0 bz4 bz3`,
    ),
  ],
  [
    0b01110,
    mode(
      [9, 5, 5, 5],
      true,
      'rw8:0 by4 gw8:0 gy4 bw8:0 bz4 rx4:0 gz4 gy3:0 gx4:0 bz0 gz3:0 bx4:0 bz1 by3:0 ry4:0 bz2 rz4:0 bz3',
    ),
  ],
  [
    0b10010,
    mode(
      [8, 6, 5, 5],
      true,
      'rw7:0 gz4 by4 gw7:0 bz2 gy4 bw7:0 bz3 bz4 rx5:0 gy3:0 gx4:0 bz0 gz3:0 bx4:0 bz1 by3:0 ry5:0 rz5:0',
    ),
  ],
  [
    0b10110,
    mode(
      [8, 5, 6, 5],
      true,
      'rw7:0 bz0 by4 gw7:0 gy5 gy4 bw7:0 gz5 bz4 rx4:0 gz4 gy3:0 gx5:0 gz3:0 bx4:0 bz1 by3:0 ry4:0 bz2 rz4:0 bz3',
    ),
  ],
  [
    0b11010,
    mode(
      [8, 5, 5, 6],
      true,
      'rw7:0 bz1 by4 gw7:0 by5 gy4 bw7:0 bz5 bz4 rx4:0 gz4 gy3:0 gx4:0 bz0 gz3:0 bx5:0 by3:0 ry4:0 bz2 rz4:0 bz3',
    ),
  ],
  [
    0b11110,
    mode(
      [6, 6, 6, 6],
      false,
      'rw5:0 gz4 bz0 bz1 by4 gw5:0 gy5 by5 bz2 gy4 bw5:0 gz5 bz3 bz5 bz4 rx5:0 gy3:0 gx5:0 gz3:0 bx5:0 by3:0 ry5:0 rz5:0',
    ),
  ],
  [0b00011, mode([10, 10, 10, 10], false, `${WHOLE} rx9:0 gx9:0 bx9:0`)],
  [0b00111, mode([11, 9, 9, 9], true, `${WHOLE} rx8:0 rw10 gx8:0 gw10 bx8:0 bw10`)],
  [0b01011, mode([12, 8, 8, 8], true, `${WHOLE} rx7:0 rw10:11 gx7:0 gw10:11 bx7:0 bw10:11`)],
  [0b01111, mode([16, 4, 4, 4], true, `${WHOLE} rx3:0 rw10:15 gx3:0 gw10:15 bx3:0 bw10:15`)],
]);

/** Four ends of three channels. */
const ends = new Int32Array(12);

const signExtended = (value: number, bits: number) => (value << (32 - bits)) >> (32 - bits);

/** One block of 16 bytes. A block of a mode that does not exist is black, as the standard has it. */
const decoder =
  (signed: boolean) =>
  (bytes: Uint8Array, at: number, out: Uint8Array): void => {
    const bits = new BlockBits(bytes, at);
    let number = bits.take(2);
    if (number > 1) number |= bits.take(3) << 2;
    const known = MODES.get(number);
    for (let i = 0; i < 16; i++) out.set(BLACK, i * 4);
    if (known === undefined) return;
    ends.fill(0);
    for (const { to, bit } of known.layout) ends[to]! |= bits.take(1) << bit;
    const partition = known.subsets === 2 ? bits.take(5) : 0;
    settleEnds(known, signed);
    const width = known.subsets === 2 ? 3 : 4;
    for (let pixel = 0; pixel < 16; pixel++) {
      const index = bits.take(isAnchor(known.subsets, partition, pixel) ? width - 1 : width);
      const weight = WEIGHTS[width]![index]!;
      const from = subsetOf(known.subsets, partition, pixel) * 6;
      for (let channel = 0; channel < 3; channel++) {
        const value = ((64 - weight) * ends[from + channel]! + weight * ends[from + 3 + channel]! + 32) >> 6;
        out[pixel * 4 + channel] = shown(value, signed);
      }
    }
  };

const BLACK = Uint8Array.of(0, 0, 0, 255);

/** Differences become ends, and all ends fill sixteen bits. */
function settleEnds({ subsets, base, deltas, differences }: Mode, signed: boolean): void {
  for (let channel = 0; channel < 3; channel++) {
    if (signed) ends[channel] = signExtended(ends[channel]!, base);
    for (let end = 1; end < subsets * 2; end++) {
      const at = end * 3 + channel;
      if (differences) {
        const sum = signExtended(ends[at]!, deltas[channel]!) + ends[channel]!;
        ends[at] = sum & (2 ** base - 1);
        if (signed) ends[at] = signExtended(ends[at]!, base);
      } else if (signed) ends[at] = signExtended(ends[at]!, base);
    }
    for (let end = 0; end < subsets * 2; end++)
      ends[end * 3 + channel] = spread(ends[end * 3 + channel]!, base, signed);
  }
}

function spread(value: number, bits: number, signed: boolean): number {
  if (!signed) {
    if (bits >= 15 || value === 0) return value;
    return value === 2 ** bits - 1 ? 0xffff : ((value << 16) + 0x8000) >> bits;
  }
  if (bits >= 16) return value;
  const size = Math.abs(value);
  const out = size === 0 ? 0 : size >= 2 ** (bits - 1) - 1 ? 0x7fff : ((size << 15) + 0x4000) >> (bits - 1);
  return value < 0 ? -out : out;
}

/** A half of a float as a byte of sRGB; what is below 0 or above 1 is cut off. */
function shown(value: number, signed: boolean): number {
  const half = signed ? (value < 0 ? 0 : (value * 31) >> 5) : (value * 31) >> 6;
  return SHOWN[half]!;
}

const SHOWN = Uint8Array.from({ length: 0x8000 }, (_, half) => {
  const exponent = half >> 10;
  const fraction = half & 1023;
  const light = exponent === 0 ? fraction * 2 ** -24 : (1024 + fraction) * 2 ** (exponent - 25);
  const srgb = light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055;
  return Math.round(Math.min(1, srgb) * 255);
});

export const decodeBc6hUnsigned = decoder(false);
export const decodeBc6hSigned = decoder(true);
