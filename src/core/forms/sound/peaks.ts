/** The outline of a sound: how loud it is along its length. */
import { readWavFacts } from './wav';

/**
 * The largest magnitude of each of `cells` equal stretches, 0 to 1; channels together. PCM of 8, 16, 24 and 32 bits and
 * 32-bit float; undefined for anything else.
 *
 * @throws FormatError when this is no WAVE file
 */
export function wavPeaks(bytes: Uint8Array, name: string, cells: number): number[] | undefined {
  const { format, channels, bits, dataAt, dataBytes } = readWavFacts(bytes, name);
  const sample = samplesOf(new DataView(bytes.buffer, bytes.byteOffset + dataAt, dataBytes), format, bits);
  if (sample === undefined || channels === 0) return undefined;
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

function samplesOf(view: DataView, format: number, bits: number): ((i: number) => number) | undefined {
  if (format === 3 && bits === 32) return (i) => view.getFloat32(i * 4, true);
  if (format !== 1) return undefined;
  switch (bits) {
    case 8:
      return (i) => (view.getUint8(i) - 128) / 128;
    case 16:
      return (i) => view.getInt16(i * 2, true) / 0x8000;
    case 24:
      return (i) => ((view.getInt8(i * 3 + 2) << 16) | view.getUint16(i * 3, true)) / 0x80_0000;
    case 32:
      return (i) => view.getInt32(i * 4, true) / 0x8000_0000;
    default:
      return undefined;
  }
}
