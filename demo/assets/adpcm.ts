/**
 * IMA ADPCM of one channel in blocks: a first sample (i16), a step index, a zero, then two samples a byte, the lower four
 * bits first; as the published reference algorithm of the Interactive Multimedia Association has it.
 */
export const IMA_BLOCK = 256;
/** Samples of a block: the first one, and two a byte. */
export const IMA_SAMPLES = 1 + (IMA_BLOCK - 4) * 2;

const INDEX_STEPS = [-1, -1, -1, -1, 2, 4, 6, 8];
const STEPS = imaSteps();

/** The 89 step sizes: each about a tenth larger than the one before, as the standard's table lists them. */
function imaSteps(): number[] {
  const text =
    '7 8 9 10 11 12 13 14 16 17 19 21 23 25 28 31 34 37 41 45 50 55 60 66 73 80 88 97 107 118 130 143 157 173 190 209 230 253 279 307 337 371 408 449 494 544 598 658 724 796 876 963 1060 1166 1282 1411 1552 1707 1878 2066 2272 2499 2749 3024 3327 3660 4026 4428 4871 5358 5894 6484 7132 7845 8630 9493 10442 11487 12635 13899 15289 16818 18500 20350 22385 24623 27086 29794 32767';
  return text.split(' ').map(Number);
}

/** Whole blocks; the last one is filled up with silence. */
export function encodeIma(pcm: Int16Array): Buffer {
  const blocks = Math.ceil(pcm.length / IMA_SAMPLES);
  const out = Buffer.alloc(blocks * IMA_BLOCK);
  let index = 0;
  for (let block = 0; block < blocks; block++) {
    const at = block * IMA_BLOCK;
    const first = block * IMA_SAMPLES;
    let value = pcm[first] ?? 0;
    out.writeInt16LE(value, at);
    out.writeUInt8(index, at + 2);
    for (let i = 0; i < IMA_SAMPLES - 1; i++) {
      const step = STEPS[index]!;
      let left = (pcm[first + 1 + i] ?? 0) - value;
      let code = left < 0 ? 8 : 0;
      left = Math.abs(left);
      let change = step >> 3;
      for (const [bit, size] of [
        [4, step],
        [2, step >> 1],
        [1, step >> 2],
      ] as const) {
        if (left < size) continue;
        code |= bit;
        left -= size;
        change += size;
      }
      value = Math.max(-32768, Math.min(32767, value + (code & 8 ? -change : change)));
      index = Math.max(0, Math.min(STEPS.length - 1, index + INDEX_STEPS[code & 7]!));
      out[at + 4 + (i >> 1)]! |= i % 2 === 0 ? code : code << 4;
    }
  }
  return out;
}
