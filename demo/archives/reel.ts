/**
 * Writes a film: a head with its streams, then packets of picture, sound and subtitles by time. Each packet is scrambled
 * with RC4 under a key of two parts, one in the film's head and one in the game's program, mixed with the packet's time.
 */
import { createHash } from 'node:crypto';
import { ByteBuilder } from './byte-builder';

export interface ReelStream {
  readonly kind: 'VIDP' | 'SNDP' | 'SUBP';
  /** Four letters. */
  readonly codec: string;
  readonly locale: string;
  /** Frames or samples a second; 0 for subtitles. */
  readonly rate: number;
  readonly width: number;
  readonly height: number;
}

export interface ReelPacket {
  /** Position among the streams. */
  readonly stream: number;
  /** Milliseconds from the start. */
  readonly time: number;
  readonly key: boolean;
  readonly bytes: Uint8Array;
}

/** @param salt the film's part of the key, 16 bytes; `secret` is the program's */
export function writeReel(
  streams: readonly ReelStream[],
  packets: readonly ReelPacket[],
  salt: Uint8Array,
  secret: Uint8Array,
): Uint8Array {
  const out = new ByteBuilder(false)
    .text('REEL')
    .u16(1) // version
    .u16(streams.length)
    .u32(packets.length)
    .u32(Math.max(0, ...packets.map(({ time }) => time)))
    .raw(salt)
    .raw(rc4(Buffer.from('REELMARK'), keyAt(salt, secret, 0)));
  for (const { kind, codec, locale, rate, width, height } of streams)
    out.text(kind).text(codec).fixed(locale, 4).u32(rate).u16(width).u16(height);
  for (const { stream, time, key, bytes } of packets)
    out
      .text(streams[stream]!.kind)
      .u16(stream)
      .u16(key ? 1 : 0)
      .u32(time)
      .u32(bytes.length)
      .raw(rc4(bytes, keyAt(salt, secret, time)))
      .align(4);
  return out.text('STOP').u32(0).u32(0).u32(0).bytes();
}

function keyAt(salt: Uint8Array, secret: Uint8Array, time: number): Uint8Array {
  const when = Buffer.alloc(4);
  when.writeUInt32BE(time);
  return createHash('md5').update(salt).update(secret).update(when).digest();
}

/** RC4, written out: OpenSSL 3 no longer has it without its legacy provider. */
function rc4(bytes: Uint8Array, key: Uint8Array): Uint8Array {
  const state = Uint8Array.from({ length: 256 }, (_, i) => i);
  for (let i = 0, j = 0; i < 256; i++) {
    j = (j + state[i]! + key[i % key.length]!) & 255;
    [state[i], state[j]] = [state[j]!, state[i]!];
  }
  let i = 0;
  let j = 0;
  return bytes.map((byte) => {
    i = (i + 1) & 255;
    j = (j + state[i]!) & 255;
    [state[i], state[j]] = [state[j]!, state[i]!];
    return byte ^ state[(state[i]! + state[j]!) & 255]!;
  });
}
