/** The facts of a RIFF WAVE file, from its `fmt ` and `data` chunks (Microsoft RIFF, 1991; WAVEFORMATEX). */
import { sayChannels } from '../../notes';
import { FormatError, hexBytes } from '../../faults';
import { PCM_CODECS, type PcmCodec } from './pcm';

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
  /** First and last sample of the first loop of its `smpl` chunk. */
  readonly loop: readonly [first: number, last: number] | undefined;
}

const EXTENSIBLE = 0xfffe;

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
  let loop: WavFacts['loop'];
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
        // WAVE_FORMAT_EXTENSIBLE says the codec in the first bytes of its identifier.
        format: view.getUint16(view.getUint16(at + 8, true) === EXTENSIBLE && length >= 40 ? at + 32 : at + 8, true),
        channels: view.getUint16(at + 10, true),
        rate: view.getUint32(at + 12, true),
        bytesASecond: view.getUint32(at + 16, true),
        block: view.getUint16(at + 20, true),
        bits: view.getUint16(at + 22, true),
      };
    } else if (tag(at) === 'data') {
      dataBytes = length;
      dataAt = at + 8;
    } else if (tag(at) === 'smpl' && length >= 60 && view.getUint32(at + 36, true) > 0)
      loop = [view.getUint32(at + 52, true), view.getUint32(at + 56, true)];
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
  return { ...facts, seconds: bytesASecond === 0 ? 0 : dataBytes / bytesASecond, dataAt, dataBytes, loop };
}

/** The format in words: `PCM, mono, 22,050 Hz, 16 bit`. */
export function sayWav(facts: WavFacts): string {
  const codec = { 1: 'PCM', 2: 'MS ADPCM', 3: 'float', 17: 'IMA ADPCM' }[facts.format] ?? `format ${facts.format}`;
  return `${codec}, ${sayChannels(facts.channels)}, ${facts.rate.toLocaleString('en')} Hz, ${facts.bits} bit`;
}

/** The kind of plain samples that a WAVE file has; undefined for other codecs. */
export function pcmCodecOf(format: number, bits: number): PcmCodec | undefined {
  return (Object.keys(PCM_CODECS) as PcmCodec[]).find(
    (codec) => PCM_CODECS[codec].tag === format && PCM_CODECS[codec].bits === bits,
  );
}

interface WavKind {
  readonly codec: PcmCodec;
  readonly rate: number;
  readonly channels: number;
}

/** WAVE around plain samples (RIFF, Microsoft 1991); a loop is in its `smpl` chunk. */
export function wrapWav(data: Uint8Array, kind: WavKind, loop?: WavFacts['loop']): Uint8Array {
  const { head, tail } = wavFrame(data.length, kind, loop);
  const out = new Uint8Array(head.length + data.length + tail.length);
  out.set(head);
  out.set(data, head.length);
  out.set(tail, head.length + data.length);
  return out;
}

/** What is before and behind so many bytes of samples. */
export function wavFrame(
  bytes: number,
  { codec, rate, channels }: WavKind,
  loop?: WavFacts['loop'],
): { head: Uint8Array; tail: Uint8Array } {
  const { tag: format, bits } = PCM_CODECS[codec];
  // Chunks start at even places.
  const padding = bytes % 2;
  const head = new DataView(new ArrayBuffer(44));
  const tail = new DataView(new ArrayBuffer(padding + (loop === undefined ? 0 : 8 + 60)));
  const tag = (view: DataView, at: number, text: string) =>
    [...text].forEach((one, i) => view.setUint8(at + i, one.charCodeAt(0)));
  tag(head, 0, 'RIFF');
  head.setUint32(4, 44 + bytes + tail.byteLength - 8, true);
  tag(head, 8, 'WAVEfmt ');
  head.setUint32(16, 16, true);
  head.setUint16(20, format, true);
  head.setUint16(22, channels, true);
  head.setUint32(24, rate, true);
  head.setUint32(28, (rate * channels * bits) / 8, true);
  head.setUint16(32, (channels * bits) / 8, true);
  head.setUint16(34, bits, true);
  tag(head, 36, 'data');
  head.setUint32(40, bytes, true);
  if (loop !== undefined) {
    tag(tail, padding, 'smpl');
    tail.setUint32(padding + 4, 60, true);
    tail.setUint32(padding + 16, Math.round(1e9 / rate), true); // nanoseconds a sample
    tail.setUint32(padding + 20, 60, true); // middle C
    tail.setUint32(padding + 36, 1, true); // loops
    tail.setUint32(padding + 52, loop[0], true);
    tail.setUint32(padding + 56, loop[1], true);
  }
  return { head: new Uint8Array(head.buffer), tail: new Uint8Array(tail.buffer) };
}
