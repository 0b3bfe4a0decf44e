/**
 * LZO1X: no maintained package has it. The stream is a row of instructions, each copying literals and a
 * match; the four match forms (M1 to M4) are distinguished by the top bits of the instruction byte.
 */
import type { Codec } from './codec';
import { MatchFinder } from './match-finder';
import { broken } from './own-fault';
import { checkedSize, overLimit } from './plain-size';

const M2_OFFSET = 0x800;
const M4_OFFSET = 0x4000;

export const lzo1x: Codec = {
  name: 'lzo1x',
  family: 'compression',
  about: 'LZO1X blocks.',
  params: [],
  decode: (stored, context) => {
    const room = context.plainSize ?? Math.min(context.maxPlainBytes, stored.length * 256 + 64);
    if (room > context.maxPlainBytes) throw overLimit('lzo1x', context);
    return checkedSize(new Lzo(stored, room).run(), 'lzo1x', context);
  },
  encode: (plain) => new LzoWriter(plain).run(),
};

class Lzo {
  private readonly out: Uint8Array;
  private at = 0;
  private end = 0;
  constructor(
    private readonly source: Uint8Array,
    room: number,
  ) {
    this.out = new Uint8Array(room);
  }

  run(): Uint8Array {
    let state = 0;
    let first = this.byte();
    if (first > 17) {
      // The first literals have no match before them.
      this.literals(first - 17);
      state = first - 17 < 4 ? first - 17 : 4;
      first = this.byte();
    }
    for (let op = first; ; op = this.byte()) {
      if (op < 16) {
        if (state === 0) {
          this.literals(op === 0 ? this.long(15) + 3 : op + 3);
          state = 4;
          continue;
        }
        // M1: a short match, nearer after one to three literals than after a long run.
        const low = this.byte();
        if (state === 4) this.match(M2_OFFSET + 1 + (op >> 2) + (low << 2), 3);
        else this.match(1 + (op >> 2) + (low << 2), 2);
        state = this.trailing(op & 3);
      } else if (op >= 64) {
        const low = this.byte();
        const length = (op >> 5) + 1;
        this.match(1 + ((op >> 2) & 7) + (low << 3), length);
        state = this.trailing(op & 3);
      } else if (op >= 32) {
        const length = (op & 31) === 0 ? this.long(31) + 2 : (op & 31) + 2;
        const pair = this.pair();
        this.match(1 + (pair >> 2), length);
        state = this.trailing(pair & 3);
      } else {
        const length = (op & 7) === 0 ? this.long(7) + 2 : (op & 7) + 2;
        const pair = this.pair();
        const offset = ((op & 8) << 11) + (pair >> 2);
        if (offset === 0) break;
        this.match(M4_OFFSET + offset, length);
        state = this.trailing(pair & 3);
      }
    }
    return this.out.subarray(0, this.end);
  }

  /** Up to three literals behind a match; their number decides how the next instruction is read. */
  private trailing(count: number): number {
    if (count > 0) this.literals(count);
    return count;
  }
  private byte(): number {
    const value = this.source[this.at++];
    if (value === undefined) throw broken('lzo1x', 'the stretch ends within an instruction', this.at);
    return value;
  }
  private pair(): number {
    return this.byte() | (this.byte() << 8);
  }
  /** A length in zero bytes of 255 each and a last one. */
  private long(base: number): number {
    let length = base;
    for (let byte = this.byte(); ; byte = this.byte()) {
      if (byte !== 0) return length + byte;
      length += 255;
      if (length > this.out.length) throw broken('lzo1x', 'a length is larger than the plain bytes', this.at);
    }
  }
  private literals(count: number): void {
    if (this.at + count > this.source.length)
      throw broken('lzo1x', 'literals run over the end of the stretch', this.at);
    if (this.end + count > this.out.length) throw broken('lzo1x', 'more plain bytes than promised', this.at);
    this.out.set(this.source.subarray(this.at, this.at + count), this.end);
    this.at += count;
    this.end += count;
  }
  private match(offset: number, length: number): void {
    if (offset > this.end) throw broken('lzo1x', 'a match begins before the plain bytes', this.at);
    if (this.end + length > this.out.length) throw broken('lzo1x', 'more plain bytes than promised', this.at);
    for (let i = 0; i < length; i++, this.end++) this.out[this.end] = this.out[this.end - offset]!;
  }
}

/** A match of so many bytes, that far back, in the shortest form that holds it. */
const M2_LONGEST = 8;
const M3_LONGEST = 33;
const M4_LONGEST = 9;
const M3_OFFSET = 0x4000;
const FARTHEST = 0xbfff;
/** The first literals are behind one byte up to this many. */
const FIRST_LITERALS = 238;

class LzoWriter {
  private readonly out: number[] = [];
  /** Where the literals begin that are not written yet. */
  private literals = 0;
  constructor(private readonly plain: Uint8Array) {}

  run(): Uint8Array {
    const { plain } = this;
    const finder = new MatchFinder(plain, { most: plain.length, farthest: FARTHEST });
    for (let at = 0; at < plain.length;) {
      const { length, distance } = finder.longest(at);
      // A match of three bytes far away takes as many.
      if (length < 3 || (length === 3 && distance > M2_OFFSET)) {
        at++;
        continue;
      }
      this.flush(at);
      this.match(length, distance);
      at += length;
      this.literals = at;
    }
    this.flush(plain.length);
    this.out.push(0x11, 0, 0);
    return Uint8Array.from(this.out);
  }

  private flush(end: number): void {
    const { out } = this;
    const count = end - this.literals;
    if (count === 0) return;
    if (out.length === 0 && count <= FIRST_LITERALS) out.push(17 + count);
    // Up to three are in the instruction before.
    else if (out.length > 0 && count <= 3) out[out.length - 2]! |= count;
    else if (count <= 18) out.push(count - 3);
    else this.long(0, count - 18);
    for (let at = this.literals; at < end; at++) out.push(this.plain[at]!);
  }
  private match(length: number, distance: number): void {
    const { out } = this;
    if (length <= M2_LONGEST && distance <= M2_OFFSET) {
      const far = distance - 1;
      out.push(((length - 1) << 5) | ((far & 7) << 2), far >> 3);
      return;
    }
    const near = distance <= M3_OFFSET;
    const far = distance - (near ? 1 : M4_OFFSET);
    const op = near ? 32 : 16 | ((far >> 11) & 8);
    const longest = near ? M3_LONGEST : M4_LONGEST;
    if (length <= longest) out.push(op | (length - 2));
    else this.long(op, length - longest);
    out.push((far & 63) << 2, (far >> 6) & 0xff);
  }
  /** An instruction with a length in zero bytes of 255 each and a last one. */
  private long(op: number, length: number): void {
    this.out.push(op);
    let left = length;
    for (; left > 255; left -= 255) this.out.push(0);
    this.out.push(left);
  }
}
