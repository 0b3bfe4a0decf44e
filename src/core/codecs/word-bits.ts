/** Bits in words of 16 bits, lowest byte first, from the highest bit of each: as Xpress with Huffman codes and LZX have them. */
import { broken } from './own-fault';

/** Bytes that may be read behind the end, where writers leave out words of zeros. */
const MISSING_BYTES = 4;

export class WordBits {
  private held = 0;
  private count = 0;
  /** Where the next word is read. */
  at: number;
  constructor(
    private readonly bytes: Uint8Array,
    private readonly name: string,
    start = 0,
  ) {
    this.at = start;
  }

  /** The next bits, at most 16, which stay where they are. */
  peek(count: number): number {
    this.fill(count);
    return count === 0 ? 0 : (this.held >>> (32 - count)) & ((1 << count) - 1);
  }
  /** @throws FormatError `codec-failed` well behind the last word */
  bits(count: number): number {
    const value = this.peek(count);
    this.skip(count);
    return value;
  }
  /** Drops bits that were peeked at. */
  skip(count: number): void {
    this.held = (this.held << count) >>> 0;
    this.count -= count;
  }
  /** So many bits are held from here on. */
  fill(count: number): void {
    while (this.count < count) {
      if (this.at >= this.bytes.length + MISSING_BYTES)
        throw broken(this.name, 'the stretch ends within a code', this.bytes.length);
      const word = (this.bytes[this.at] ?? 0) | ((this.bytes[this.at + 1] ?? 0) << 8);
      this.held = (this.held | (word << (16 - this.count))) >>> 0;
      this.count += 16;
      this.at += 2;
    }
  }
  /** Goes on at the next whole word. @param always drops a word that begins here as well */
  toWord(always = false): void {
    if (always && this.count === 0) this.fill(16);
    this.skip(always && this.count % 16 === 0 ? 16 : this.count % 16);
    // Whole words that are held already are read again.
    this.at -= this.count >> 3;
    this.held = 0;
    this.count = 0;
  }
  /** Bytes as they are, from a whole word on. */
  take(length: number): Uint8Array {
    if (this.at + length > this.bytes.length) throw broken(this.name, 'bytes run over the end of the stretch', this.at);
    this.at += length;
    return this.bytes.subarray(this.at - length, this.at);
  }
  /** Bits that have not been read. */
  get left(): number {
    return (this.bytes.length - this.at) * 8 + this.count;
  }
  get place(): number {
    return Math.min(this.at, this.bytes.length);
  }
}

/** A canonical code read by a table of all codes of its longest length. */
export class WordCode {
  private readonly symbols: Uint16Array;
  private readonly lengths: Uint8Array;
  private readonly longest: number;
  /** @throws FormatError `codec-failed` for lengths that give more codes than there is room for */
  constructor(
    lengths: ArrayLike<number>,
    private readonly name: string,
  ) {
    let longest = 1;
    for (let symbol = 0; symbol < lengths.length; symbol++) longest = Math.max(longest, lengths[symbol]!);
    this.longest = longest;
    const size = 1 << longest;
    this.symbols = new Uint16Array(size);
    this.lengths = new Uint8Array(size);
    let at = 0;
    for (let length = 1; length <= longest; length++)
      for (let symbol = 0; symbol < lengths.length; symbol++) {
        if (lengths[symbol] !== length) continue;
        const end = at + (1 << (longest - length));
        if (end > size) throw broken(name, 'its code lengths give more codes than there is room for', 0);
        this.symbols.fill(symbol, at, end);
        this.lengths.fill(length, at, end);
        at = end;
      }
  }
  /** @throws FormatError `codec-failed` for a code of no symbol */
  read(bits: WordBits): number {
    const code = bits.peek(this.longest);
    const length = this.lengths[code]!;
    if (length === 0) throw broken(this.name, 'a code represents no symbol', bits.place);
    bits.skip(length);
    return this.symbols[code]!;
  }
}
