/** Run-length codes: counts with a top bit, pairs, and a marker byte. */
import { FormatError } from '../faults';
import type { Codec, CodecContext } from './codec';
import { checkedSize, overLimit } from './plain-size';

/** Bytes in the making, never more than allowed. */
class Output {
  private readonly parts: number[] = [];
  constructor(
    private readonly name: string,
    private readonly context: CodecContext,
  ) {}
  put(byte: number, count = 1): void {
    const most = Math.min(this.context.plainSize ?? Infinity, this.context.maxPlainBytes);
    if (this.parts.length + count > most + 1) {
      if (this.context.plainSize !== undefined && this.context.plainSize < this.context.maxPlainBytes)
        throw new FormatError({ code: 'size-differs', what: `${this.name} gives more bytes than the archive says` });
      throw overLimit(this.name, this.context);
    }
    for (let i = 0; i < count; i++) this.parts.push(byte);
  }
  bytes(): Uint8Array {
    return Uint8Array.from(this.parts);
  }
}

function runAt(plain: Uint8Array, at: number, most: number): number {
  let length = 1;
  while (length < most && plain[at + length] === plain[at]) length++;
  return length;
}

const cut = (name: string) => new FormatError({ code: 'codec-failed', what: `${name} ends within a run` });

/** PackBits, as TIFF 6.0 section 9 describes it: n literals for 0 to 127, one byte 257 - n times for 129 to 255. */
const packbits: Codec = {
  name: 'rle-packbits',
  family: 'compression',
  about: 'PackBits (TIFF 6.0): a count below 128 before literals, above before a repeated byte.',
  params: [],
  decode: (stored, context) => {
    const out = new Output('rle-packbits', context);
    for (let at = 0; at < stored.length;) {
      const count = stored[at++]!;
      if (count === 128) continue;
      if (count < 128) {
        if (at + count + 1 > stored.length) throw cut('rle-packbits');
        for (let i = 0; i <= count; i++) out.put(stored[at++]!);
      } else {
        if (at >= stored.length) throw cut('rle-packbits');
        out.put(stored[at++]!, 257 - count);
      }
    }
    return checkedSize(out.bytes(), 'rle-packbits', context);
  },
  encode: (plain) => {
    const out: number[] = [];
    let literals: number[] = [];
    const flush = () => {
      if (literals.length > 0) out.push(literals.length - 1, ...literals);
      literals = [];
    };
    for (let at = 0; at < plain.length;) {
      const run = runAt(plain, at, 128);
      if (run >= 3) {
        flush();
        out.push(257 - run, plain[at]!);
        at += run;
      } else {
        literals.push(plain[at++]!);
        if (literals.length === 128) flush();
      }
    }
    flush();
    return Uint8Array.from(out);
  },
};

const pairs: Codec = {
  name: 'rle-pairs',
  family: 'compression',
  about: 'Pairs of a count (1 to 255) and a byte.',
  params: [],
  decode: (stored, context) => {
    const out = new Output('rle-pairs', context);
    if (stored.length % 2 !== 0) throw cut('rle-pairs');
    for (let at = 0; at < stored.length; at += 2) out.put(stored[at + 1]!, stored[at]!);
    return checkedSize(out.bytes(), 'rle-pairs', context);
  },
  encode: (plain) => {
    const out: number[] = [];
    for (let at = 0; at < plain.length;) {
      const run = runAt(plain, at, 255);
      out.push(run, plain[at]!);
      at += run;
    }
    return Uint8Array.from(out);
  },
};

const marked: Codec = {
  name: 'rle-marked',
  family: 'compression',
  about:
    'A marker byte, a count and a byte encode a run; every other byte encodes itself. A marker is written as a run of 1.',
  params: [{ name: 'marker', type: 'number' }],
  decode: (stored, context) => {
    const marker = Number(context.params['marker']);
    const out = new Output('rle-marked', context);
    for (let at = 0; at < stored.length; at++) {
      if (stored[at] !== marker) out.put(stored[at]!);
      else if (at + 2 < stored.length) {
        out.put(stored[at + 2]!, stored[at + 1]!);
        at += 2;
      } else throw cut('rle-marked');
    }
    return checkedSize(out.bytes(), 'rle-marked', context);
  },
  encode: (plain, { params }) => {
    const marker = Number(params['marker']);
    const out: number[] = [];
    for (let at = 0; at < plain.length;) {
      const run = runAt(plain, at, 255);
      if (run > 3 || plain[at] === marker) out.push(marker, run, plain[at]!);
      else for (let i = 0; i < run; i++) out.push(plain[at]!);
      at += run;
    }
    return Uint8Array.from(out);
  },
};

export const runLengthCodecs: readonly Codec[] = [packbits, pairs, marked];
