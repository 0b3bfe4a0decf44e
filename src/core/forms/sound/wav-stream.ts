/** A sound without a header as WAVE that is made while it is read: a player begins with its first block. */
import { decodeSound, unitOf, type SoundFormat } from './sound';
import { isPcm, pcmBytes } from './pcm';
import { wavFrame } from './wav';

/** Bytes that are decoded together: enough that a call costs nothing, few enough to be heard at once. */
const TOGETHER = 64 << 10;

export interface WavStream {
  /** Bytes of the whole file. */
  readonly size: number;
  /**
   * The bytes `[from, to)` of the file. What lies before is read, since most of what packs sounds cannot be entered in the
   * middle, and not decoded.
   *
   * @param plain the bytes of the sound from its start; no more is read of them than is asked for
   * @throws FormatError what {@link decodeSound} throws
   */
  chunks(plain: AsyncIterable<Uint8Array>, from?: number, to?: number): AsyncGenerator<Uint8Array>;
}

/**
 * The same file as {@link soundAsWav} makes.
 *
 * @param bytes of the sound as the game keeps it
 */
export function wavStream(format: SoundFormat, bytes: number, name: string): WavStream {
  const { codec, rate, channels, loop, length: samples = Infinity, ...rest } = format;
  const wholeBlocks: SoundFormat = { codec, rate, channels, loop, ...rest };
  const wide = isPcm(codec) ? codec : 'pcm-s16';
  // Blocks know nothing of one another.
  const unit = isPcm(codec) ? 1 : format.block;
  const group = Math.max(1, Math.floor(TOGETHER / unit)) * unit;
  const decoded = (part: Uint8Array): Uint8Array =>
    isPcm(codec) ? part : pcmBytes(decodeSound(part, wholeBlocks, name).samples, 'pcm-s16');
  // A block of zeros is as long as any other.
  const lengthOf = (length: number): number =>
    isPcm(codec)
      ? length
      : Math.floor(length / unit) * decoded(new Uint8Array(unit)).length +
        decoded(new Uint8Array(length % unit)).length;
  const data = Math.min(lengthOf(bytes), samples * unitOf(wide, channels, 0).bytes);
  const { head, tail } = wavFrame(data, { codec: wide, rate, channels }, loop);
  const size = head.length + data + tail.length;

  return {
    size,
    async *chunks(plain, from = 0, to = size) {
      let at = 0;
      const cut = (part: Uint8Array) => part.subarray(Math.max(from - at, 0), Math.max(to - at, 0));
      if (from < head.length) yield cut(head);
      at += head.length;
      for await (const part of inGroups(plain, group)) {
        if (at >= to) return;
        const length = Math.min(lengthOf(part.length), head.length + data - at);
        if (length === 0) break;
        if (at + length > from) yield cut(decoded(part).subarray(0, length));
        at += length;
      }
      if (at < to) yield cut(tail);
    },
  };
}

/** The same bytes in parts of one length; the last may be shorter. */
async function* inGroups(chunks: AsyncIterable<Uint8Array>, length: number): AsyncGenerator<Uint8Array> {
  let held: Uint8Array = new Uint8Array(0);
  for await (const chunk of chunks) {
    held = held.length === 0 ? chunk : new Uint8Array(Buffer.concat([held, chunk]));
    for (; held.length >= length; held = held.subarray(length)) yield held.subarray(0, length);
  }
  if (held.length > 0) yield held;
}
