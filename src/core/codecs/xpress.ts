/** Plain LZ77 of the Xpress family ([MS-XCA], sections 2.3 and 2.4): 32 flags, matches of 13 bits of distance. */
import type { Codec } from './codec';
import { MatchFinder } from './match-finder';
import { broken } from './own-fault';
import { PlainOutput } from './plain-output';

const NAME = 'xpress';
const FLAGS = 32;
const FARTHEST = 1 << 13;
const LEAST = 3;
/** The largest lengths that fit in the match itself, in half a byte and in a byte. */
const IN_MATCH = 7;
const IN_HALF = 15;
const IN_BYTE = 255;

function decode(stored: Uint8Array, out: PlainOutput): void {
  const view = new DataView(stored.buffer, stored.byteOffset, stored.byteLength);
  let at = 0;
  let flags = 0;
  let count = 0;
  /** Where half a byte of a length is left. */
  let half = -1;
  const need = (bytes: number): number => {
    if (at + bytes > stored.length) throw broken(NAME, 'the stretch ends within a match', at);
    at += bytes;
    return at - bytes;
  };
  while (at < stored.length && !out.isFull) {
    if (count === 0) {
      flags = view.getUint32(need(4), true);
      count = FLAGS;
    }
    count--;
    if (((flags >>> count) & 1) === 0) {
      if (at >= stored.length) return;
      out.byte(stored[at++]!);
      continue;
    }
    // Behind the last match, flags that are left say that there is one more.
    if (at >= stored.length) return;
    const from = at;
    const match = view.getUint16(need(2), true);
    let length = match & IN_MATCH;
    if (length === IN_MATCH) {
      if (half < 0) {
        half = need(1);
        length = stored[half]! & IN_HALF;
      } else {
        length = stored[half]! >> 4;
        half = -1;
      }
      if (length === IN_HALF) {
        length = stored[need(1)]!;
        if (length === IN_BYTE) {
          length = view.getUint16(need(2), true);
          if (length === 0) length = view.getUint32(need(4), true);
          if (length < IN_HALF + IN_MATCH) throw broken(NAME, 'a length is shorter than its form', from);
          length -= IN_HALF + IN_MATCH;
        }
        length += IN_HALF;
      }
      length += IN_MATCH;
    }
    out.copy((match >> 3) + 1, length + LEAST, from);
  }
}

function encode(plain: Uint8Array): Uint8Array {
  const finder = new MatchFinder(plain, { most: plain.length, farthest: FARTHEST });
  const out: number[] = [];
  let flagsAt = -1;
  let flags = 0;
  let count = 0;
  let half = -1;
  const number = (value: number, bytes: number) => {
    for (let i = 0; i < bytes; i++) out.push(Math.floor(value / 2 ** (8 * i)) & 0xff);
  };
  const setFlags = () => {
    for (let i = 0; i < 4; i++) out[flagsAt + i] = (flags >>> (8 * i)) & 0xff;
  };
  const flag = (value: number) => {
    if (count === 0) {
      flagsAt = out.length;
      flags = 0;
      number(0, 4);
      count = FLAGS;
    }
    count--;
    flags |= value << count;
    setFlags();
  };
  for (let at = 0; at < plain.length;) {
    const { length, distance } = finder.longest(at);
    if (length < LEAST) {
      flag(0);
      out.push(plain[at++]!);
      continue;
    }
    flag(1);
    const coded = length - LEAST;
    number(((distance - 1) << 3) | Math.min(coded, IN_MATCH), 2);
    if (coded >= IN_MATCH) {
      const more = coded - IN_MATCH;
      if (half < 0) {
        half = out.length;
        out.push(Math.min(more, IN_HALF));
      } else {
        out[half]! |= Math.min(more, IN_HALF) << 4;
        half = -1;
      }
      if (more >= IN_HALF) {
        const rest = more - IN_HALF;
        if (rest < IN_BYTE) out.push(rest);
        else {
          out.push(IN_BYTE);
          if (coded < 1 << 16) number(coded, 2);
          else {
            number(0, 2);
            number(coded, 4);
          }
        }
      }
    }
    at += length;
  }
  // Unused flags are ones, and there is always one of them.
  if (count === 0) flag(1);
  flags |= count === 0 ? 0 : 2 ** count - 1;
  setFlags();
  return Uint8Array.from(out);
}

export const xpress: Codec = {
  name: NAME,
  family: 'compression',
  about: 'Plain LZ77 of the Xpress family ([MS-XCA]), without Huffman codes.',
  params: [],
  decode: (stored, context) => {
    const out = new PlainOutput(NAME, context);
    decode(stored, out);
    return out.finish();
  },
  encode,
};
