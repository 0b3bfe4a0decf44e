/** Canonical Huffman codes: code lengths from counts, codes from lengths, and their reading bit by bit. */
import type { BitReader, BitWriter } from './bit-io';
import { broken } from './own-fault';

/**
 * Code lengths for symbols that occur so often, none longer than `longest`. A symbol that never occurs has length 0; one
 * that is alone has length 1.
 */
export function codeLengths(counts: readonly number[], longest: number): number[] {
  const used = counts.flatMap((count, symbol) => (count > 0 ? [symbol] : []));
  const lengths = counts.map(() => 0);
  if (used.length === 1) lengths[used[0]!] = 1;
  if (used.length < 2) return lengths;
  // Package-merge (Larmore and Hirschberg, 1990): each round pairs what is cheapest; what is taken in a round gets a bit.
  interface Item {
    readonly weight: number;
    readonly symbols: readonly number[];
  }
  const leaves: Item[] = used
    .map((symbol) => ({ weight: counts[symbol]!, symbols: [symbol] }))
    .sort((a, b) => a.weight - b.weight);
  let items = leaves;
  for (let round = 1; round < longest; round++) {
    const pairs: Item[] = [];
    for (let i = 0; i + 1 < items.length; i += 2)
      pairs.push({
        weight: items[i]!.weight + items[i + 1]!.weight,
        symbols: items[i]!.symbols.concat(items[i + 1]!.symbols),
      });
    items = [...leaves, ...pairs].sort((a, b) => a.weight - b.weight);
  }
  for (const { symbols } of items.slice(0, 2 * used.length - 2)) for (const symbol of symbols) lengths[symbol]!++;
  return lengths;
}

/** The canonical code of every symbol: by length, and by number within a length (RFC 1951, section 3.2.2). */
export function canonicalCodes(lengths: readonly number[]): number[] {
  const codes = lengths.map(() => 0);
  let code = 0;
  for (let length = 1; length <= Math.max(0, ...lengths); length++) {
    code *= 2;
    for (const [symbol, own] of lengths.entries()) if (own === length) codes[symbol] = code++;
  }
  return codes;
}

/** Reads symbols of a canonical code, whose bits stand from the highest on. */
export class HuffmanReader {
  /** How many codes there are of each length, and the symbols in the order of their codes. */
  private readonly counts: number[];
  private readonly symbols: number[] = [];
  constructor(
    lengths: readonly number[],
    private readonly name: string,
  ) {
    const longest = Math.max(0, ...lengths);
    this.counts = Array.from({ length: longest + 1 }, () => 0);
    for (const length of lengths) if (length > 0) this.counts[length]!++;
    for (let length = 1; length <= longest; length++)
      for (const [symbol, own] of lengths.entries()) if (own === length) this.symbols.push(symbol);
    let left = 1;
    for (let length = 1; length <= longest; length++) {
      left = left * 2 - this.counts[length]!;
      if (left < 0) throw broken(name, 'its code lengths give more codes than there is room for', 0);
    }
  }

  /** @throws FormatError `codec-failed` for a code of no symbol */
  read(bits: BitReader): number {
    let code = 0;
    let first = 0;
    let index = 0;
    for (let length = 1; length < this.counts.length; length++) {
      code = code * 2 + bits.bits(1);
      const count = this.counts[length]!;
      if (code - first < count) return this.symbols[index + code - first]!;
      index += count;
      first = (first + count) * 2;
    }
    throw broken(this.name, 'a code represents no symbol', bits.place);
  }
}

/** Writes symbols of a canonical code. */
export class HuffmanCoder {
  private readonly codes: readonly number[];
  constructor(private readonly lengths: readonly number[]) {
    this.codes = canonicalCodes(lengths);
  }
  has(symbol: number): boolean {
    return (this.lengths[symbol] ?? 0) > 0;
  }
  write(bits: BitWriter, symbol: number): void {
    const code = this.codes[symbol]!;
    // Bit by bit: the highest comes first, whichever way numbers stand.
    for (let i = this.lengths[symbol]! - 1; i >= 0; i--) bits.bits((code >>> i) & 1, 1);
  }
}
