/** A sound as samples, and the codecs a game keeps it in. */
import { sayChannels } from '../../notes';
import { FormatError } from '../../faults';
import { decodeIma, encodeIma, imaSamples } from './adpcm';
import { decodeMs, encodeMs, msSamples } from './ms-adpcm';
import { isPcm, PCM_CODECS, pcmBytes, pcmReader, type PcmCodec } from './pcm';
import { pcmCodecOf, wrapWav, type WavFacts } from './wav';

/** Codecs that are read and written here; others are the business of an outside program. */
export const SOUND_CODECS = [
  ...(Object.keys(PCM_CODECS) as PcmCodec[]),
  'ima-adpcm',
  'ima-adpcm-sums',
  'ms-adpcm',
] as const;
export type SoundCodec = (typeof SOUND_CODECS)[number];

export const isSoundCodec = (codec: string): codec is SoundCodec => (SOUND_CODECS as readonly string[]).includes(codec);

/** Bytes of a block where nothing says. */
export const USUAL_BLOCK = 256;

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
  /** Samples of each channel, where the last block holds more than the sound has; what is behind them is not played. */
  readonly length?: number;
  /** Samples of each channel that the game takes at most. */
  readonly most?: number;
}

/** Samples of 16 bits, the channels in turn. */
export interface Sound {
  readonly rate: number;
  readonly channels: number;
  readonly samples: Int16Array;
}

export const secondsOf = ({ samples, channels, rate }: Sound): number => samples.length / channels / rate;

/** @throws FormatError `codec-failed` for bytes that are none of the codec */
export function decodeSound(
  bytes: Uint8Array,
  { codec, rate, channels, block, length = Infinity }: SoundFormat,
  name: string,
): Sound {
  const samples = samplesOf(bytes, codec, channels, block, name);
  return { rate, channels, samples: samples.subarray(0, Math.min(samples.length, length * channels)) };
}

/** Bytes of a whole unit of a codec, and the samples of each channel in it. */
export function unitOf(codec: SoundCodec, channels: number, block: number): { bytes: number; samples: number } {
  if (isPcm(codec)) return { bytes: (PCM_CODECS[codec].bits / 8) * channels, samples: 1 };
  return { bytes: block, samples: codec === 'ms-adpcm' ? msSamples(block, channels) : imaSamples(block, channels) };
}

function samplesOf(bytes: Uint8Array, codec: SoundCodec, channels: number, block: number, name: string): Int16Array {
  if (codec === 'ima-adpcm') return decodeIma(bytes, channels, block, name);
  if (codec === 'ima-adpcm-sums') return decodeIma(bytes, channels, block, name, 'sums');
  if (codec === 'ms-adpcm') return decodeMs(bytes, channels, block, name);
  const sample = pcmReader(bytes, codec);
  const count = Math.floor((bytes.length * 8) / PCM_CODECS[codec].bits);
  return Int16Array.from({ length: count }, (_, i) =>
    Math.max(-32_768, Math.min(32_767, Math.floor(sample(i) * 32_768))),
  );
}

/** Samples of each channel that a sound may have: of codecs that have blocks, as many as whole blocks hold. */
export function mostSamples({ codec, channels, block, most = Infinity }: SoundFormat): number {
  if (!Number.isFinite(most)) return most;
  const { samples: each } = unitOf(codec, channels, block);
  return Math.floor(most / each) * each;
}

/** The bytes a game keeps; of the rate and the channels that it wants already. */
export function encodeSound({ samples }: Sound, { codec, channels, block }: SoundFormat): Uint8Array {
  if (codec === 'ima-adpcm') return encodeIma(samples, channels, block);
  if (codec === 'ima-adpcm-sums') return encodeIma(samples, channels, block, 'sums');
  if (codec === 'ms-adpcm') return encodeMs(samples, channels, block);
  return pcmBytes(samples, codec);
}

/** WAVE with PCM of 16 bits. */
export function writeWav({ rate, channels, samples }: Sound, loop?: SoundFormat['loop']): Uint8Array {
  return wrapWav(pcmBytes(samples, 'pcm-s16'), { codec: 'pcm-s16', rate, channels }, loop);
}

/** A sound that has no header as WAVE: plain samples byte for byte, others as samples of 16 bits. */
export function soundAsWav(bytes: Uint8Array, format: SoundFormat, name: string): Uint8Array {
  const { codec, loop, channels, block, length = Infinity } = format;
  if (!isPcm(codec)) return writeWav(decodeSound(bytes, format, name), loop);
  const played = Math.min(bytes.length, length * unitOf(codec, channels, block).bytes);
  return wrapWav(bytes.subarray(0, played), { ...format, codec }, loop);
}

/** A WAVE file with plain samples or ADPCM as samples; undefined for other codecs. */
export function soundOfWav(bytes: Uint8Array, facts: WavFacts, name: string): Sound | undefined {
  const { format, channels, rate, bits, block, dataAt, dataBytes } = facts;
  const codec: SoundCodec | undefined =
    format === 17 ? 'ima-adpcm' : format === 2 ? 'ms-adpcm' : pcmCodecOf(format, bits);
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

const ADPCM_TITLES = { 'ima-adpcm': 'IMA ADPCM', 'ima-adpcm-sums': 'IMA ADPCM', 'ms-adpcm': 'MS ADPCM' } as const;

/** The format in words: `IMA ADPCM, mono, 22,050 Hz`. */
export function saySound({ codec, channels, rate, loop }: SoundFormat): string {
  const title = isPcm(codec) ? PCM_CODECS[codec].title : ADPCM_TITLES[codec];
  return `${title}, ${sayChannels(channels)}, ${rate.toLocaleString('en')} Hz${loop === undefined ? '' : ', played over and over'}`;
}
