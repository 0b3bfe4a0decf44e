/**
 * ADPCM of the Interactive Multimedia Association in the blocks that WAVE files have (DVI ADPCM, Microsoft "Multimedia
 * Standards Update", 1994): a block starts with a first sample (i16), a step index and a zero for each channel; then two
 * samples a byte, the lower four bits first, eight samples of one channel and then of the next.
 */
import { FormatError } from '../../faults';

const INDEX_STEPS = [-1, -1, -1, -1, 2, 4, 6, 8] as const;
/** Each about a tenth larger than the one before, as the standard's table lists them. */
const STEPS = [
  ...[7, 8, 9, 10, 11, 12, 13, 14, 16, 17, 19, 21, 23, 25, 28, 31, 34, 37, 41, 45, 50, 55, 60, 66, 73, 80, 88, 97],
  ...[107, 118, 130, 143, 157, 173, 190, 209, 230, 253, 279, 307, 337, 371, 408, 449, 494, 544, 598, 658, 724, 796],
  ...[876, 963, 1060, 1166, 1282, 1411, 1552, 1707, 1878, 2066, 2272, 2499, 2749, 3024, 3327, 3660, 4026, 4428, 4871],
  ...[5358, 5894, 6484, 7132, 7845, 8630, 9493, 10442, 11487, 12635, 13899, 15289, 16818, 18500, 20350, 22385, 24623],
  ...[27086, 29794, 32767],
];
const HEAD = 4;

/** Samples of each channel in a block of so many bytes. */
export const imaSamples = (blockBytes: number, channels: number): number =>
  1 + Math.floor(((blockBytes - HEAD * channels) * 2) / channels);

/**
 * How far a code moves a sample: by one product, as decoders of WAVE files compute it, or by a sum of shifts, each
 * rounded down, as the first recommendation of 1992 states it.
 */
export type ImaRounding = 'product' | 'sums';

const CHANGES: Readonly<Record<ImaRounding, (code: number, step: number) => number>> = {
  product: (code, step) => ((2 * (code & 7) + 1) * step) >> 3,
  sums: (code, step) => (step >> 3) + (code & 4 ? step : 0) + (code & 2 ? step >> 1 : 0) + (code & 1 ? step >> 2 : 0),
};

/** A decoder of one channel. */
class Predictor {
  value = 0;
  index = 0;
  private readonly change: (code: number, step: number) => number;

  constructor(rounding: ImaRounding) {
    this.change = CHANGES[rounding];
  }

  take(code: number): number {
    const step = STEPS[this.index]!;
    const change = this.change(code, step);
    this.value = clamp(this.value + ((code & 8) !== 0 ? -change : change), -32768, 32767);
    this.index = clamp(this.index + INDEX_STEPS[code & 7]!, 0, STEPS.length - 1);
    return this.value;
  }

  /** The code that comes nearest to a sample, which is taken. */
  give(sample: number): number {
    const step = STEPS[this.index]!;
    let left = Math.abs(sample - this.value);
    let code = sample < this.value ? 8 : 0;
    for (const [bit, size] of [
      [4, step],
      [2, step >> 1],
      [1, step >> 2],
    ] as const) {
      if (left < size) continue;
      code |= bit;
      left -= size;
    }
    this.take(code);
    return code;
  }
}

const clamp = (value: number, low: number, high: number) => (value < low ? low : value > high ? high : value);

/**
 * @param blockBytes bytes of a block, all channels together
 * @returns samples, the channels in turn
 * @throws FormatError `codec-failed` with the offset of a block that is none
 */
export function decodeIma(
  bytes: Uint8Array,
  channels: number,
  blockBytes: number,
  name: string,
  rounding: ImaRounding = 'product',
): Int16Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const perBlock = imaSamples(blockBytes, channels);
  const blocks = Math.ceil(bytes.length / blockBytes);
  const out = new Int16Array(blocks * perBlock * channels);
  const predictors = Array.from({ length: channels }, () => new Predictor(rounding));
  let length = 0;
  for (let block = 0; block < blocks; block++) {
    const start = block * blockBytes;
    const end = Math.min(bytes.length, start + blockBytes);
    if (end - start < HEAD * channels) break;
    for (const [channel, predictor] of predictors.entries()) {
      const head = start + channel * HEAD;
      predictor.value = view.getInt16(head, true);
      predictor.index = bytes[head + 2]!;
      if (predictor.index >= STEPS.length)
        throw new FormatError({
          code: 'codec-failed',
          file: name,
          offset: head + 2,
          what: 'a block of ADPCM starts with a step that there is not',
          expected: `0 to ${STEPS.length - 1}`,
          found: String(predictor.index),
          hint: 'The codec may be another, or the key of the sounds is wrong.',
        });
      out[length + channel] = predictor.value;
    }
    const first = length + channels;
    let read = 0;
    // Four bytes, which are eight samples, of each channel in turn.
    for (let at = start + HEAD * channels; at + 4 * channels <= end || channels === 1; at += 4 * channels) {
      if (at >= end) break;
      const wide = channels === 1 ? Math.min(4, end - at) : 4;
      for (const [channel, predictor] of predictors.entries())
        for (let i = 0; i < wide * 2; i++) {
          const byte = bytes[at + channel * 4 + (i >> 1)]!;
          out[first + (read + i) * channels + channel] = predictor.take(i % 2 === 0 ? byte & 15 : byte >> 4);
        }
      read += wide * 2;
    }
    length = first + read * channels;
  }
  return out.subarray(0, length);
}

/** Whole blocks; the last one is filled up with its last sample. The first step of a sound is the smallest. */
export function encodeIma(
  samples: Int16Array,
  channels: number,
  blockBytes: number,
  rounding: ImaRounding = 'product',
): Uint8Array {
  const perBlock = imaSamples(blockBytes, channels);
  const frames = Math.floor(samples.length / channels);
  const blocks = Math.ceil(frames / perBlock);
  const out = new Uint8Array(blocks * blockBytes);
  const view = new DataView(out.buffer);
  const predictors = Array.from({ length: channels }, () => new Predictor(rounding));
  for (let block = 0; block < blocks; block++) {
    const start = block * blockBytes;
    for (const [channel, predictor] of predictors.entries()) {
      const sampleAt = (i: number) => samples[Math.min(frames - 1, block * perBlock + i) * channels + channel]!;
      predictor.value = sampleAt(0);
      view.setInt16(start + channel * HEAD, predictor.value, true);
      out[start + channel * HEAD + 2] = predictor.index;
      for (let i = 0; i < perBlock - 1; i++) {
        const at = start + HEAD * channels + (i >> 3) * 4 * channels + channel * 4 + ((i & 7) >> 1);
        const code = predictor.give(sampleAt(i + 1));
        out[at]! |= i % 2 === 0 ? code : code << 4;
      }
    }
  }
  return out;
}
