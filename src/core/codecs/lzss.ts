/**
 * The LZSS family (Storer and Szymanski, 1982): flags that tell literals from matches, in as many variants as there are
 * ports. What differs between them is a parameter each; the defaults are the variant most often copied.
 */
import type { Codec, CodecContext, ParamSpec } from './codec';
import { allMatches } from './match-finder';
import { broken, unfitParameter } from './own-fault';
import { PlainOutput } from './plain-output';

const NAME = 'lzss';

const params: readonly ParamSpec[] = [
  { name: 'window', type: 'number', otherwise: 12 },
  { name: 'length', type: 'number', otherwise: 4 },
  { name: 'least', type: 'number', otherwise: 3 },
  { name: 'flags', type: 'word', words: ['low', 'high'], otherwise: 'low' },
  { name: 'group', type: 'number', otherwise: 8 },
  { name: 'literal', type: 'number', otherwise: 1 },
  { name: 'offsets', type: 'word', words: ['absolute', 'relative'], otherwise: 'absolute' },
  { name: 'start', type: 'number', otherwise: -1 },
  { name: 'base', type: 'number', otherwise: 1 },
  { name: 'fill', type: 'number', otherwise: 0x20 },
  { name: 'pair', type: 'word', words: ['split', 'offset-first', 'length-first'], otherwise: 'split' },
  { name: 'order', type: 'word', words: ['little', 'big'], otherwise: 'little' },
];

/** A variant, ready to be used in both directions. */
interface Variant {
  readonly windowBits: number;
  readonly lengthBits: number;
  /** The shortest match, kept as length 0. */
  readonly least: number;
  readonly most: number;
  readonly lowFirst: boolean;
  /** Flags in a group. */
  readonly group: number;
  /** The flag of a literal. */
  readonly literal: number;
  readonly isAbsolute: boolean;
  /** Where in the window the first byte is put. */
  readonly start: number;
  /** The distance that is kept as 0. */
  readonly base: number;
  readonly fill: number;
  readonly pair: 'split' | 'offset-first' | 'length-first';
  readonly big: boolean;
  readonly pairBytes: number;
}

function variantOf({ params: given }: CodecContext): Variant {
  const number = (name: string, least: number, most: number): number => {
    const value = Number(given[name] ?? params.find((spec) => spec.name === name)!.otherwise);
    if (Number.isInteger(value) && value >= least && value <= most) return value;
    throw unfitParameter(NAME, name, `${least} to ${most}`, value);
  };
  const windowBits = number('window', 4, 20);
  const lengthBits = number('length', 1, 16);
  const least = number('least', 1, 255);
  const pair = (given['pair'] ?? 'split') as Variant['pair'];
  const group = number('group', 8, 32);
  if (group % 8 !== 0) throw unfitParameter(NAME, 'group', '8, 16, 24 or 32', group);
  const bits = windowBits + lengthBits;
  if (bits % 8 !== 0 || bits > 24 || (pair === 'split' && (bits !== 16 || windowBits < 8)))
    throw unfitParameter(
      NAME,
      'window and length',
      pair === 'split' ? '16 bits together, 8 or more of them for the window' : '16 or 24 bits together',
      `${windowBits} and ${lengthBits}`,
    );
  const most = least + 2 ** lengthBits - 1;
  const size = 2 ** windowBits;
  const start = number('start', -1, size - 1);
  return {
    windowBits,
    lengthBits,
    least,
    most,
    lowFirst: given['flags'] !== 'high',
    group,
    literal: number('literal', 0, 1),
    isAbsolute: given['offsets'] !== 'relative',
    start: start < 0 ? Math.max(0, size - most) : start,
    base: number('base', 0, 255),
    fill: number('fill', 0, 255),
    pair,
    big: given['order'] === 'big',
    pairBytes: bits / 8,
  };
}

/** Offset and length of a pair, from its bytes as one number. */
function unpaired(value: number, { pair, windowBits, lengthBits }: Variant): [offset: number, length: number] {
  const lengthMask = 2 ** lengthBits - 1;
  const windowMask = 2 ** windowBits - 1;
  switch (pair) {
    case 'split':
      // The low byte of the offset; then its upper bits above the length.
      return [(value & 0xff) | ((value >> (8 + lengthBits)) << 8), (value >> 8) & lengthMask];
    case 'offset-first':
      return [value >>> lengthBits, value & lengthMask];
    case 'length-first':
      return [value & windowMask, value >>> windowBits];
  }
}

function paired(offset: number, length: number, { pair, windowBits, lengthBits }: Variant): number {
  switch (pair) {
    case 'split':
      return (offset & 0xff) | (length << 8) | ((offset >> 8) << (8 + lengthBits));
    case 'offset-first':
      return (offset << lengthBits) | length;
    case 'length-first':
      return (length << windowBits) | offset;
  }
}

const numberAt = (bytes: Uint8Array, at: number, length: number, big: boolean): number => {
  let value = 0;
  for (let i = 0; i < length; i++) value += bytes[at + (big ? length - 1 - i : i)]! * 2 ** (8 * i);
  return value;
};

function decode(stored: Uint8Array, context: CodecContext): Uint8Array {
  const variant = variantOf(context);
  const { group, pairBytes, big, isAbsolute, base, start, fill, least } = variant;
  const size = 2 ** variant.windowBits;
  const out = new PlainOutput(NAME, context);
  let at = 0;
  while (at < stored.length && !out.isFull) {
    if (at + group / 8 > stored.length) throw broken(NAME, 'the stretch ends within its flags', at);
    const flags = numberAt(stored, at, group / 8, big);
    at += group / 8;
    for (let i = 0; i < group && at < stored.length && !out.isFull; i++) {
      const flag = Math.floor(flags / 2 ** (variant.lowFirst ? i : group - 1 - i)) & 1;
      if (flag === variant.literal) {
        out.byte(stored[at++]!);
        continue;
      }
      if (at + pairBytes > stored.length) throw broken(NAME, 'the stretch ends within a match', at);
      const [offset, more] = unpaired(numberAt(stored, at, pairBytes, big), variant);
      const distance = isAbsolute ? ((start + out.length - offset - 1 + 2 * size) % size) + 1 : offset + base;
      if (distance === 0) throw broken(NAME, 'a match begins where it is written', at);
      out.copy(distance, least + more, at, fill);
      at += pairBytes;
    }
  }
  return out.finish();
}

/** The cheapest parse: a match costs the same whatever its length, so the longest is the best there is at a place. */
function encode(plain: Uint8Array, context: CodecContext): Uint8Array {
  const variant = variantOf(context);
  const { group, pairBytes, big, isAbsolute, base, start, least, most } = variant;
  const size = 2 ** variant.windowBits;
  const farthest = isAbsolute ? Math.max(1, size - most) : size - 1 + base;
  const matches = allMatches(plain, { most, farthest });
  const usable = (at: number) => {
    const { length, distance } = matches[at]!;
    return length >= least && distance >= Math.max(1, base) ? length : 0;
  };
  const cost = new Float64Array(plain.length + 1);
  for (let at = plain.length - 1; at >= 0; at--) {
    const length = usable(at);
    const literal = 9 + cost[at + 1]!;
    cost[at] = length === 0 ? literal : Math.min(literal, 1 + 8 * pairBytes + cost[at + length]!);
  }
  const out: number[] = [];
  let flagsAt = 0;
  let count = group;
  let flags = 0;
  const number = (at: number, value: number, length: number) => {
    for (let i = 0; i < length; i++) out[at + (big ? length - 1 - i : i)] = Math.floor(value / 2 ** (8 * i)) & 0xff;
  };
  const flag = (value: number) => {
    if (count === group) {
      flagsAt = out.length;
      for (let i = 0; i < group / 8; i++) out.push(0);
      count = 0;
      flags = 0;
    }
    flags += value * 2 ** (variant.lowFirst ? count : group - 1 - count);
    count++;
    number(flagsAt, flags, group / 8);
  };
  for (let at = 0; at < plain.length;) {
    const length = usable(at);
    if (length > 0 && 1 + 8 * pairBytes + cost[at + length]! <= 9 + cost[at + 1]!) {
      flag(1 - variant.literal);
      const { distance } = matches[at]!;
      const offset = isAbsolute ? (start + at - distance + 2 * size) % size : distance - base;
      number(out.length, paired(offset, length - least, variant), pairBytes);
      at += length;
    } else {
      flag(variant.literal);
      out.push(plain[at++]!);
    }
  }
  return Uint8Array.from(out);
}

export const lzss: Codec = {
  name: NAME,
  family: 'compression',
  about:
    'LZSS in its variants: flags, of which `literal` means a byte, in groups of `group`; matches of at least `least` bytes with `window` bits of offset and `length` bits of length.',
  params,
  decode,
  encode,
};
