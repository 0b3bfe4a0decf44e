/** A sound as samples, and the codecs a game keeps it in. */
import { FormatError } from '../../faults';
import { decodeIma, encodeIma } from './adpcm';

/** Codecs that are read and written here; others are the business of an outside program. */
export const SOUND_CODECS = ['pcm-u8', 'pcm-s16', 'ima-adpcm'] as const;
export type SoundCodec = (typeof SOUND_CODECS)[number];

/** How a game keeps a sound. */
export interface SoundFormat {
  readonly codec: SoundCodec;
  /** Samples a second. */
  readonly rate: number;
  readonly channels: number;
  /** Bytes of a block, of codecs that have blocks. */
  readonly block: number;
  /** First and last sample of what is played over and over, when the sound is. */
  readonly loop: readonly [first: number, last: number] | undefined;
}

/** Samples of 16 bits, the channels in turn. */
export interface Sound {
  readonly rate: number;
  readonly channels: number;
  readonly samples: Int16Array;
}

export const secondsOf = ({ samples, channels, rate }: Sound): number => samples.length / channels / rate;

/** @throws FormatError `codec-failed` for bytes that are none of the codec */
export function decodeSound(bytes: Uint8Array, { codec, rate, channels, block }: SoundFormat, name: string): Sound {
  return { rate, channels, samples: samplesOf(bytes, codec, channels, block, name) };
}

function samplesOf(bytes: Uint8Array, codec: SoundCodec, channels: number, block: number, name: string): Int16Array {
  switch (codec) {
    case 'pcm-u8':
      return Int16Array.from(bytes, (value) => (value - 128) << 8);
    case 'pcm-s16': {
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
      return Int16Array.from({ length: bytes.length >> 1 }, (_, i) => view.getInt16(i * 2, true));
    }
    case 'ima-adpcm':
      return decodeIma(bytes, channels, block, name);
  }
}

/** The bytes a game keeps; of the rate and the channels that it wants already. */
export function encodeSound({ samples }: Sound, { codec, channels, block }: SoundFormat): Uint8Array {
  switch (codec) {
    case 'pcm-u8':
      return Uint8Array.from(samples, (value) => (value >> 8) + 128);
    case 'pcm-s16': {
      const out = new DataView(new ArrayBuffer(samples.length * 2));
      samples.forEach((value, i) => out.setInt16(i * 2, value, true));
      return new Uint8Array(out.buffer);
    }
    case 'ima-adpcm':
      return encodeIma(samples, channels, block);
  }
}

/** WAVE with PCM of 16 bits (RIFF, Microsoft 1991); a loop stands in its `smpl` chunk. */
export function writeWav({ rate, channels, samples }: Sound, loop?: SoundFormat['loop']): Uint8Array {
  const data = samples.length * 2;
  const sampler = loop === undefined ? 0 : 8 + 60;
  const out = new DataView(new ArrayBuffer(44 + data + sampler));
  const tag = (at: number, text: string) => [...text].forEach((one, i) => out.setUint8(at + i, one.charCodeAt(0)));
  tag(0, 'RIFF');
  out.setUint32(4, out.byteLength - 8, true);
  tag(8, 'WAVEfmt ');
  out.setUint32(16, 16, true);
  out.setUint16(20, 1, true);
  out.setUint16(22, channels, true);
  out.setUint32(24, rate, true);
  out.setUint32(28, rate * channels * 2, true);
  out.setUint16(32, channels * 2, true);
  out.setUint16(34, 16, true);
  tag(36, 'data');
  out.setUint32(40, data, true);
  samples.forEach((value, i) => out.setInt16(44 + i * 2, value, true));
  if (loop !== undefined) {
    const at = 44 + data;
    tag(at, 'smpl');
    out.setUint32(at + 4, 60, true);
    out.setUint32(at + 16, Math.round(1e9 / rate), true); // nanoseconds a sample
    out.setUint32(at + 20, 60, true); // middle C
    out.setUint32(at + 36, 1, true); // loops
    out.setUint32(at + 52, loop[0], true);
    out.setUint32(at + 56, loop[1], true);
  }
  return new Uint8Array(out.buffer);
}

/** A WAVE file with PCM of 8 or 16 bits or IMA ADPCM as samples; undefined for other codecs. */
export function soundOfWav(
  bytes: Uint8Array,
  {
    format,
    channels,
    rate,
    bits,
    block,
    dataAt,
    dataBytes,
  }: {
    format: number;
    channels: number;
    rate: number;
    bits: number;
    block: number;
    dataAt: number;
    dataBytes: number;
  },
  name: string,
): Sound | undefined {
  const codec: SoundCodec | undefined =
    format === 17
      ? 'ima-adpcm'
      : format !== 1
        ? undefined
        : bits === 16
          ? 'pcm-s16'
          : bits === 8
            ? 'pcm-u8'
            : undefined;
  if (codec === undefined || channels === 0) return undefined;
  const data = bytes.subarray(dataAt, dataAt + dataBytes);
  return decodeSound(data, { codec, rate, channels, block, loop: undefined }, name);
}

/** A sound as long as 0 seconds is none. @throws FormatError */
export function checkNotEmpty(sound: Sound, name: string): void {
  if (sound.samples.length === 0)
    throw new FormatError({ code: 'wrong-kind', file: name, what: 'the sound is 0 seconds long' });
}

/** The outline of samples: the largest magnitude of each of so many equal stretches, 0 to 1. */
export function soundPeaks({ samples }: Sound, cells: number): number[] {
  const peaks = new Array<number>(cells).fill(0);
  for (let i = 0; i < samples.length; i++) {
    const cell = Math.floor((i / samples.length) * cells);
    const value = Math.abs(samples[i]!) / 32768;
    if (value > peaks[cell]!) peaks[cell] = value;
  }
  return peaks;
}

/** The format in words: `IMA ADPCM, mono, 22,050 Hz`. */
export function saySound({ codec, channels, rate, loop }: SoundFormat): string {
  const codecs = { 'pcm-u8': 'PCM of 8 bits', 'pcm-s16': 'PCM of 16 bits', 'ima-adpcm': 'IMA ADPCM' } as const;
  const many = { 1: 'mono', 2: 'stereo' }[channels] ?? `${channels} channels`;
  return `${codecs[codec]}, ${many}, ${rate.toLocaleString('en')} Hz${loop === undefined ? '' : ', played over and over'}`;
}
