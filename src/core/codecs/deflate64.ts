/** Deflate64: DEFLATE (RFC 1951) with a window of 64 KiB, distances up to it, and a last length code of 16 more bits. */
import { BitReader, BitWriter } from './bit-io';
import type { Codec, CodecContext } from './codec';
import { codeLengths, HuffmanCoder, HuffmanReader } from './huffman-code';
import { MatchFinder } from './match-finder';
import { broken } from './own-fault';
import { PlainOutput } from './plain-output';

const NAME = 'deflate64';
const END = 256;
/** The order in which lengths of the code length code stand (RFC 1951, section 3.2.7). */
const ORDER = [16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15];

/** Symbols of lengths from 257 on: the first length of each, and its further bits. The last has 16 of them, from 3 on. */
const LENGTHS: readonly (readonly [base: number, extra: number])[] = Array.from({ length: 29 }, (_, i) => {
  if (i === 28) return [3, 16] as const;
  const extra = i < 8 ? 0 : (i >> 2) - 1;
  return [i < 8 ? 3 + i : 3 + ((4 + (i & 3)) << extra), extra] as const;
});
const DISTANCES: readonly (readonly [base: number, extra: number])[] = Array.from({ length: 32 }, (_, i) => {
  const extra = i < 4 ? 0 : (i >> 1) - 1;
  return [i < 4 ? 1 + i : 1 + ((2 + (i & 1)) << extra), extra] as const;
});

const FIXED_LITERALS = Array.from({ length: 288 }, (_, i) => (i < 144 ? 8 : i < 256 ? 9 : i < 280 ? 7 : 8));
const FIXED_DISTANCES = Array.from({ length: 32 }, () => 5);

function decode(stored: Uint8Array, context: CodecContext): Uint8Array {
  const bits = new BitReader(stored, 'low', NAME);
  const out = new PlainOutput(NAME, context);
  for (let last = false; !last;) {
    last = bits.bits(1) === 1;
    const type = bits.bits(2);
    if (type === 0) {
      const header = bits.take(4);
      const length = header[0]! | (header[1]! << 8);
      if ((length ^ 0xffff) !== (header[2]! | (header[3]! << 8)))
        throw broken(NAME, 'the length of a stored block is damaged', bits.place - 4);
      out.put(bits.take(length));
    } else if (type === 1) readCodes(bits, out, FIXED_LITERALS, FIXED_DISTANCES);
    else if (type === 2) readCodes(bits, out, ...dynamicLengths(bits));
    else throw broken(NAME, 'a block of a kind that does not exist', bits.place);
  }
  return out.finish();
}

function dynamicLengths(bits: BitReader): [number[], number[]] {
  const literals = bits.bits(5) + 257;
  const distances = bits.bits(5) + 1;
  const count = bits.bits(4) + 4;
  const first = ORDER.map(() => 0);
  for (let i = 0; i < count; i++) first[ORDER[i]!] = bits.bits(3);
  const reader = new HuffmanReader(first, NAME);
  const lengths: number[] = [];
  while (lengths.length < literals + distances) {
    const symbol = reader.read(bits);
    if (symbol < 16) lengths.push(symbol);
    else {
      const [times, value] =
        symbol === 16
          ? [3 + bits.bits(2), lengths.at(-1) ?? NaN]
          : symbol === 17
            ? [3 + bits.bits(3), 0]
            : [11 + bits.bits(7), 0];
      if (Number.isNaN(value)) throw broken(NAME, 'the first code length repeats one before it', bits.place);
      for (let i = 0; i < times; i++) lengths.push(value);
    }
  }
  if (lengths.length > literals + distances) throw broken(NAME, 'more code lengths than announced', bits.place);
  return [lengths.slice(0, literals), lengths.slice(literals)];
}

function readCodes(bits: BitReader, out: PlainOutput, literals: readonly number[], distances: readonly number[]): void {
  const symbols = new HuffmanReader(literals, NAME);
  const far = new HuffmanReader(distances, NAME);
  for (;;) {
    const symbol = symbols.read(bits);
    if (symbol === END) return;
    if (symbol < END) {
      out.byte(symbol);
      continue;
    }
    const length = LENGTHS[symbol - END - 1];
    if (length === undefined) throw broken(NAME, 'a length that does not exist', bits.place);
    const total = length[0] + bits.bits(length[1]);
    const [base, extra] = DISTANCES[far.read(bits)]!;
    out.copy(base + bits.bits(extra), total, bits.place);
  }
}

/** A literal, or a match with its length and distance. */
type Token = readonly [length: number, distance: number];

const MOST_MATCH = 257;
const FARTHEST = 1 << 16;
/** Tokens of one block. */
const BLOCK_TOKENS = 1 << 16;

const lengthSymbol = (length: number): number => {
  let symbol = 27;
  while (LENGTHS[symbol]![0] > length) symbol--;
  return symbol;
};
const distanceSymbol = (distance: number): number => {
  let symbol = 31;
  while (DISTANCES[symbol]![0] > distance) symbol--;
  return symbol;
};

function encode(plain: Uint8Array): Uint8Array {
  const finder = new MatchFinder(plain, { most: MOST_MATCH, farthest: FARTHEST });
  const bits = new BitWriter('low');
  let tokens: Token[] = [];
  for (let at = 0; at < plain.length;) {
    const { length, distance } = finder.longest(at);
    if (length >= 3) tokens.push([length, distance]);
    else tokens.push([plain[at]!, 0]);
    at += Math.max(1, length);
    if (tokens.length === BLOCK_TOKENS) {
      writeBlock(bits, tokens, at >= plain.length);
      tokens = [];
    }
  }
  if (tokens.length > 0 || plain.length === 0) writeBlock(bits, tokens, true);
  return bits.finish();
}

function writeBlock(bits: BitWriter, tokens: readonly Token[], last: boolean): void {
  const literalCounts = Array.from({ length: 286 }, () => 0);
  const distanceCounts = Array.from({ length: 32 }, (): number => 0);
  literalCounts[END] = 1;
  for (const [length, distance] of tokens) {
    if (distance === 0) literalCounts[length]!++;
    else {
      literalCounts[END + 1 + lengthSymbol(length)]!++;
      distanceCounts[distanceSymbol(distance)]!++;
    }
  }
  const literals = codeLengths(literalCounts, 15);
  const distances = codeLengths(distanceCounts, 15);
  // Some readers refuse a block without any distance.
  if (!distances.some((length) => length > 0)) distances[0] = 1;
  bits.bits(last ? 1 : 0, 1);
  bits.bits(2, 2);
  bits.bits(literals.length - 257, 5);
  bits.bits(distances.length - 1, 5);
  // Lengths as they are, without repeats: a block is large next to them.
  const all = [...literals, ...distances];
  const counts = Array.from({ length: 19 }, () => 0);
  for (const length of all) counts[length]!++;
  const first = codeLengths(counts, 7);
  bits.bits(ORDER.length - 4, 4);
  for (const symbol of ORDER) bits.bits(first[symbol]!, 3);
  const lengthCoder = new HuffmanCoder(first);
  for (const length of all) lengthCoder.write(bits, length);
  const symbols = new HuffmanCoder(literals);
  const far = new HuffmanCoder(distances);
  for (const [length, distance] of tokens) {
    if (distance === 0) {
      symbols.write(bits, length);
      continue;
    }
    const symbol = lengthSymbol(length);
    symbols.write(bits, END + 1 + symbol);
    bits.bits(length - LENGTHS[symbol]![0], LENGTHS[symbol]![1]);
    const place = distanceSymbol(distance);
    far.write(bits, place);
    bits.bits(distance - DISTANCES[place]![0], DISTANCES[place]![1]);
  }
  symbols.write(bits, END);
}

export const deflate64: Codec = {
  name: NAME,
  family: 'compression',
  about: 'Bare Deflate64: DEFLATE with a window of 64 KiB.',
  params: [],
  decode,
  encode,
};
