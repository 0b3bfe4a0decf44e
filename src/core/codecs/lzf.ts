/** LZF: runs of literals, and matches of up to 264 bytes at most 8 KiB back. */
import type { Codec } from './codec';
import { MatchFinder } from './match-finder';
import { broken } from './own-fault';
import { PlainOutput } from './plain-output';

const NAME = 'lzf';
const MOST_LITERALS = 32;
const MOST_MATCH = 264;
const FARTHEST = 8192;

export const lzf: Codec = {
  name: NAME,
  family: 'compression',
  about: 'LZF blocks without a header.',
  params: [],
  decode: (stored, context) => {
    const out = new PlainOutput(NAME, context);
    for (let at = 0; at < stored.length;) {
      const from = at;
      const control = stored[at++]!;
      if (control < MOST_LITERALS) {
        if (at + control + 1 > stored.length) throw broken(NAME, 'literals run over the end', from);
        out.put(stored.subarray(at, at + control + 1));
        at += control + 1;
        continue;
      }
      let length = control >> 5;
      if (length === 7) length += stored[at++] ?? NaN;
      const low = stored[at++];
      if (low === undefined || Number.isNaN(length)) throw broken(NAME, 'the stretch ends within a match', from);
      out.copy(((control & 0x1f) << 8) + low + 1, length + 2, from);
    }
    return out.finish();
  },
  encode: (plain) => {
    const finder = new MatchFinder(plain, { most: MOST_MATCH, farthest: FARTHEST });
    const out: number[] = [];
    let literals = 0;
    const flush = (end: number) => {
      for (let at = literals; at < end; at += MOST_LITERALS) {
        const part = plain.subarray(at, Math.min(end, at + MOST_LITERALS));
        out.push(part.length - 1, ...part);
      }
    };
    for (let at = 0; at < plain.length;) {
      const { length, distance } = finder.longest(at);
      if (length < 3) {
        at++;
        continue;
      }
      flush(at);
      const far = distance - 1;
      if (length < 9) out.push(((length - 2) << 5) | (far >> 8), far & 0xff);
      else out.push((7 << 5) | (far >> 8), length - 9, far & 0xff);
      at += length;
      literals = at;
    }
    flush(plain.length);
    return Uint8Array.from(out);
  },
};
