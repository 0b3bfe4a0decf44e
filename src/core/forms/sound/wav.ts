/** The facts of a RIFF WAVE file, from its `fmt ` and `data` chunks (Microsoft RIFF, 1991; WAVEFORMATEX). */
import { FormatError, hexBytes } from '../../faults';

export interface WavFacts {
  /** The format tag: 1 is PCM, 3 IEEE float, 2 MS ADPCM, 17 IMA ADPCM. */
  readonly format: number;
  readonly channels: number;
  /** Hertz. */
  readonly rate: number;
  readonly bits: number;
  /** Bytes of a block: of one sample of all channels, where the codec has no blocks. */
  readonly block: number;
  readonly seconds: number;
  /** Where the samples lie. */
  readonly dataAt: number;
  readonly dataBytes: number;
}

/** @throws FormatError when this is no WAVE file or a chunk runs past its end */
export function readWavFacts(bytes: Uint8Array, name: string): WavFacts {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tag = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 12 || tag(0) !== 'RIFF' || tag(8) !== 'WAVE') {
    throw new FormatError({
      code: 'wrong-kind',
      file: name,
      offset: 0,
      expected: 'a WAVE sound (RIFF … WAVE)',
      found: hexBytes(bytes.subarray(0, 12), 12),
    });
  }
  let format:
    (Pick<WavFacts, 'format' | 'channels' | 'rate' | 'bits' | 'block'> & { bytesASecond: number }) | undefined;
  let dataBytes: number | undefined;
  let dataAt = 0;
  for (let at = 12; at + 8 <= bytes.length;) {
    const length = view.getUint32(at + 4, true);
    if (at + 8 + length > bytes.length) {
      throw new FormatError({
        code: 'cut-short',
        file: name,
        field: tag(at).trim(),
        offset: at,
        expected: `${length.toLocaleString('en')} bytes in the chunk`,
        found: (bytes.length - at - 8).toLocaleString('en'),
      });
    }
    if (tag(at) === 'fmt ' && length >= 16) {
      format = {
        format: view.getUint16(at + 8, true),
        channels: view.getUint16(at + 10, true),
        rate: view.getUint32(at + 12, true),
        bytesASecond: view.getUint32(at + 16, true),
        block: view.getUint16(at + 20, true),
        bits: view.getUint16(at + 22, true),
      };
    } else if (tag(at) === 'data') {
      dataBytes = length;
      dataAt = at + 8;
    }
    // Chunks are padded to even lengths.
    at += 8 + length + (length % 2);
  }
  if (format === undefined || dataBytes === undefined) {
    throw new FormatError({
      code: 'wrong-kind',
      file: name,
      what: 'the sound has no format or no data',
      expected: 'a `fmt ` and a `data` chunk',
    });
  }
  const { bytesASecond, ...facts } = format;
  return { ...facts, seconds: bytesASecond === 0 ? 0 : dataBytes / bytesASecond, dataAt, dataBytes };
}

/** The format in words: `PCM, mono, 22,050 Hz, 16 bit`. */
export function sayWav(facts: WavFacts): string {
  const codec = { 1: 'PCM', 2: 'MS ADPCM', 3: 'float', 17: 'IMA ADPCM' }[facts.format] ?? `format ${facts.format}`;
  const channels = { 1: 'mono', 2: 'stereo' }[facts.channels] ?? `${facts.channels} channels`;
  return `${codec}, ${channels}, ${facts.rate.toLocaleString('en')} Hz, ${facts.bits} bit`;
}
