/** What is heard of a cue of ADPCM: the published algorithm of the Interactive Multimedia Association, block by block. */

const BLOCK = 256;
const CHANGES = [-1, -1, -1, -1, 2, 4, 6, 8];
const STEPS = steps();

/** Each step is about a tenth larger than the one before; the table of the standard has 89. */
function steps(): number[] {
  const text =
    '7 8 9 10 11 12 13 14 16 17 19 21 23 25 28 31 34 37 41 45 50 55 60 66 73 80 88 97 107 118 130 143 157 173 190 209 230 253 279 307 337 371 408 449 494 544 598 658 724 796 876 963 1060 1166 1282 1411 1552 1707 1878 2066 2272 2499 2749 3024 3327 3660 4026 4428 4871 5358 5894 6484 7132 7845 8630 9493 10442 11487 12635 13899 15289 16818 18500 20350 22385 24623 27086 29794 32767';
  return text.split(' ').map(Number);
}

export function decodeIma(bytes: Buffer): Int16Array {
  const out: number[] = [];
  for (let at = 0; at < bytes.length; at += BLOCK) {
    let value = bytes.readInt16LE(at);
    let index = bytes[at + 2]!;
    out.push(value);
    for (let i = 0; i < (BLOCK - 4) * 2; i++) {
      const code = (bytes[at + 4 + (i >> 1)]! >> (i % 2 === 0 ? 0 : 4)) & 15;
      const step = STEPS[index]!;
      const change = ((2 * (code & 7) + 1) * step) >> 3;
      value = Math.max(-32768, Math.min(32767, value + (code & 8 ? -change : change)));
      index = Math.max(0, Math.min(88, index + CHANGES[code & 7]!));
      out.push(value);
    }
  }
  return Int16Array.from(out);
}
