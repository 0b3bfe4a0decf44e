/** The outline of a sound: how loud it is along its length. */
import { pcmReader } from './pcm';
import { pcmCodecOf, readWavFacts } from './wav';

/**
 * The largest magnitude of each of `cells` equal stretches, 0 to 1; channels together. PCM of 8, 16, 24 and 32 bits and
 * 32-bit float; undefined for anything else.
 *
 * @throws FormatError when this is no WAVE file
 */
export function wavPeaks(bytes: Uint8Array, name: string, cells: number): number[] | undefined {
  const { format, channels, bits, dataAt, dataBytes } = readWavFacts(bytes, name);
  const codec = pcmCodecOf(format, bits);
  if (codec === undefined || channels === 0) return undefined;
  const sample = pcmReader(bytes.subarray(dataAt, dataAt + dataBytes), codec);
  const count = Math.floor(dataBytes / (bits / 8));
  const peaks = new Array<number>(cells).fill(0);
  // Of long sounds not every sample is looked at: the outline is the same.
  const step = Math.max(1, Math.floor(count / (cells * SAMPLES_A_CELL)));
  for (let i = 0; i < count; i += step) {
    const cell = Math.floor((i / count) * cells);
    const value = Math.abs(sample(i));
    if (value > peaks[cell]!) peaks[cell] = Math.min(1, value);
  }
  return peaks;
}

const SAMPLES_A_CELL = 2_000;
