/** Xpress with Huffman codes ([MS-XCA], sections 2.1 and 2.2): blocks of 64 KiB, each with a code of its own. */
import type { Codec } from './codec';
import { canonicalCodes, codeLengths } from './huffman-code';
import { MatchFinder } from './match-finder';
import { broken } from './own-fault';
import { PlainOutput } from './plain-output';
import { WordBits, WordCode } from './word-bits';

const NAME = 'xpress-huffman';
const BLOCK = 1 << 16;
const SYMBOLS = 512;
const TABLE_BYTES = SYMBOLS / 2;
const LONGEST = 15;
const FARTHEST = (1 << 16) - 1;
const LEAST = 3;
/** The symbol that ends a stretch of unknown size where nothing is left; elsewhere it is a match of 3 bytes, 1 byte back. */
const END = 256;
/** Lengths from here on go on in bytes of their own. */
const MORE = 15;
const MORE_BYTE = 255;

function decode(stored: Uint8Array, out: PlainOutput, isSized: boolean): void {
  for (let at = 0; at < stored.length && !out.isFull;) at = decodeBlock(stored, at, out, isSized);
}

/** @returns where the next block begins */
function decodeBlock(stored: Uint8Array, start: number, out: PlainOutput, isSized: boolean): number {
  if (start + TABLE_BYTES > stored.length) throw broken(NAME, 'the stretch ends within a table of codes', start);
  const lengths = Uint8Array.from({ length: SYMBOLS }, (_, i) => (stored[start + (i >> 1)]! >> (4 * (i & 1))) & 15);
  const code = new WordCode(lengths, NAME);
  const bits = new WordBits(stored, NAME, start + TABLE_BYTES);
  const end = out.length + BLOCK;
  // Two words are fetched at first, and one whenever less than one is left: bytes of lengths lie behind them.
  bits.fill(32);
  while (out.length < end && !out.isFull) {
    const from = bits.place;
    const symbol = code.read(bits);
    bits.fill(16);
    if (symbol < END) {
      out.byte(symbol);
      continue;
    }
    if (symbol === END && !isSized && bits.at >= stored.length) return stored.length;
    const { length, far } = matchOf(symbol - END, bits, from);
    const distance = (1 << far) + bits.bits(far);
    bits.fill(16);
    out.copy(distance, length, from);
  }
  return bits.at;
}

function matchOf(symbol: number, bits: WordBits, from: number): { length: number; far: number } {
  let length = symbol & MORE;
  if (length === MORE) {
    length = bits.take(1)[0]!;
    if (length === MORE_BYTE) {
      length = numberOf(bits.take(2));
      if (length === 0) length = numberOf(bits.take(4));
      if (length < MORE) throw broken(NAME, 'a length is shorter than its form', from);
      length -= MORE;
    }
    length += MORE;
  }
  return { length: length + LEAST, far: symbol >> 4 };
}

function numberOf(bytes: Uint8Array): number {
  return bytes.reduce((sum, byte, i) => sum + byte * 2 ** (8 * i), 0);
}

interface Item {
  readonly symbol: number;
  /** Of a match: its length less three, and its distance with the number of bits behind the highest. */
  readonly coded: number;
  readonly distance: number;
  readonly far: number;
}

function encode(plain: Uint8Array): Uint8Array {
  const finder = new MatchFinder(plain, { most: BLOCK, farthest: FARTHEST });
  const out: number[] = [];
  for (let start = 0; start < plain.length; start += BLOCK) {
    const end = Math.min(start + BLOCK, plain.length);
    const items: Item[] = [];
    for (let at = start; at < end;) {
      const { length: found, distance } = finder.longest(at);
      const length = Math.min(found, end - at);
      // The shortest match of one byte back would be taken for the end.
      if (length < LEAST || (length === LEAST && distance === 1)) {
        items.push({ symbol: plain[at++]!, coded: 0, distance: 0, far: 0 });
        continue;
      }
      const coded = length - LEAST;
      const far = 31 - Math.clz32(distance);
      items.push({ symbol: END + far * 16 + Math.min(coded, MORE), coded, distance, far });
      at += length;
    }
    if (end === plain.length) items.push({ symbol: END, coded: 0, distance: 1, far: 0 });
    writeBlock(items, out);
  }
  return Uint8Array.from(out);
}

function writeBlock(items: readonly Item[], out: number[]): void {
  const counts = Array.from({ length: SYMBOLS }, () => 0);
  for (const { symbol } of items) counts[symbol]!++;
  const lengths = codeLengths(counts, LONGEST);
  const codes = canonicalCodes(lengths);
  for (let i = 0; i < SYMBOLS; i += 2) out.push(lengths[i]! | (lengths[i + 1]! << 4));
  // Words are set where the reader will fetch them, which is before the bytes that come meanwhile.
  const slots = [out.length, out.length + 2];
  out.push(0, 0, 0, 0);
  let word = 0;
  let free = 16;
  const put = (place: number, value: number) => {
    out[place] = value & 255;
    out[place + 1] = value >> 8;
  };
  const bits = (count: number, value: number) => {
    if (count <= free) {
      free -= count;
      word = (word << count) | value;
      return;
    }
    const rest = count - free;
    put(slots.shift()!, ((word << free) | (value >> rest)) & 0xffff);
    slots.push(out.length);
    out.push(0, 0);
    free = 16 - rest;
    word = value & ((1 << rest) - 1);
  };
  for (const { symbol, coded, distance, far } of items) {
    bits(lengths[symbol]!, codes[symbol]!);
    if (symbol < END) continue;
    const more = coded - MORE;
    if (more >= 0 && more < MORE_BYTE) out.push(more);
    else if (more >= MORE_BYTE)
      out.push(MORE_BYTE, ...(coded < 1 << 16 ? [coded & 255, coded >> 8] : [0, 0, ...bytesOf(coded)]));
    bits(far, distance - (1 << far));
  }
  put(slots[0]!, (word << free) & 0xffff);
}

const bytesOf = (value: number) => [0, 8, 16, 24].map((shift) => (value >>> shift) & 255);

export const xpressHuffman: Codec = {
  name: NAME,
  family: 'compression',
  about: 'LZ77 with Huffman codes of the Xpress family ([MS-XCA]).',
  params: [],
  decode: (stored, context) => {
    const out = new PlainOutput(NAME, context);
    decode(stored, out, context.plainSize !== undefined);
    return out.finish();
  },
  encode,
};
