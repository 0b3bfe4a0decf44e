/**
 * LZO1X, reading only: no maintained package reads it. The stream is a row of instructions, each copying literals and a
 * match; the four match forms (M1 to M4) are told by the top bits of the instruction byte.
 */
import { FormatError } from '../faults';
import type { Codec } from './codec';
import { checkedSize, overLimit } from './plain-size';

const M2_OFFSET = 0x800;
const M4_OFFSET = 0x4000;

export const lzo1x: Codec = {
  name: 'lzo1x',
  family: 'compression',
  about: 'LZO1X blocks; read only, so a changed entry is stored raw where the format can say so.',
  params: [],
  decode: (stored, context) => {
    const room = context.plainSize ?? Math.min(context.maxPlainBytes, stored.length * 256 + 64);
    if (room > context.maxPlainBytes) throw overLimit('lzo1x', context);
    return checkedSize(new Lzo(stored, room).run(), 'lzo1x', context);
  },
  encode: () => {
    throw new FormatError({
      code: 'layout-impossible',
      what: 'lzo1x can be read but not written',
      hint: 'Give the recipe another method for changed entries, such as stored raw.',
    });
  },
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
    if (value === undefined) throw broken('the stretch ends within an instruction');
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
      if (length > this.out.length) throw broken('a length is larger than the plain bytes');
    }
  }
  private literals(count: number): void {
    if (this.at + count > this.source.length) throw broken('literals run over the end of the stretch');
    if (this.end + count > this.out.length) throw broken('more plain bytes than promised');
    this.out.set(this.source.subarray(this.at, this.at + count), this.end);
    this.at += count;
    this.end += count;
  }
  private match(offset: number, length: number): void {
    if (offset > this.end) throw broken('a match begins before the plain bytes');
    if (this.end + length > this.out.length) throw broken('more plain bytes than promised');
    for (let i = 0; i < length; i++, this.end++) this.out[this.end] = this.out[this.end - offset]!;
  }
}

function broken(what: string): FormatError {
  return new FormatError({
    code: 'codec-failed',
    what: `lzo1x cannot unpack this stretch (${what})`,
    hint: 'The bytes may be damaged, locked, or packed another way.',
  });
}
