/** Reads a film: its streams, and packets by time. */
import { createHash } from 'node:crypto';
import { Walk } from './walk';

export interface FilmStream {
  readonly kind: string;
  readonly codec: string;
  readonly locale: string;
  readonly rate: number;
  readonly width: number;
  readonly height: number;
  readonly packets: { readonly time: number; readonly at: number; readonly bytes: Buffer }[];
}

export function readReel(file: string, reel: Buffer, secret: Buffer): FilmStream[] {
  const walk = new Walk(file, 'REEL', reel, 'big');
  walk.magic('REEL');
  walk.is('VERSION', 1, walk.u16(), 4, 'This game reads version 1.');
  const streamCount = walk.u16();
  const packetCount = walk.u32();
  const duration = walk.u32();
  const salt = walk.take(16);
  const mark = unscramble(walk.take(8), salt, secret, 0).toString('latin1');
  walk.is('KEY', 'REELMARK', mark, 32, 'The key of this program fits.');
  const streams = Array.from({ length: streamCount }, (): FilmStream => {
    const [kind, codec, locale] = [walk.fixed(4), walk.fixed(4), walk.fixed(4)];
    return { kind, codec, locale, rate: walk.u32(), width: walk.u16(), height: walk.u16(), packets: [] };
  });
  let before = 0;
  let packets = 0;
  for (;;) {
    const at = walk.at;
    const kind = walk.fixed(4);
    if (kind === 'STOP') break;
    const stream = streams[walk.u16()];
    if (stream?.kind !== kind) walk.stop('STREAM', at, 'A packet is of the kind of its stream.', kind);
    walk.u16();
    const time = walk.u32();
    if (time < before) walk.stop('ORDER', at + 8, 'Packets are ordered by time.', time);
    before = time;
    const bytes = unscramble(walk.take(walk.u32()), salt, secret, time);
    walk.zeros((4 - (walk.at % 4)) % 4);
    stream!.packets.push({ time, at, bytes });
    packets++;
  }
  walk.zeros(12);
  walk.ended();
  walk.is('COUNT', packetCount, packets, 8, 'There are as many packets as the head says.');
  walk.is('DURATION', duration, before, 12, 'The film ends with its last packet.');
  return streams;
}

/** RC4 under the MD5 of both parts of the key and the time. */
function unscramble(bytes: Buffer, salt: Buffer, secret: Buffer, time: number): Buffer {
  const when = Buffer.of(time >>> 24, (time >>> 16) & 255, (time >>> 8) & 255, time & 255);
  const key = createHash('md5')
    .update(Buffer.concat([salt, secret, when]))
    .digest();
  const s = Array.from({ length: 256 }, (_, i) => i);
  const swap = (a: number, b: number) => ([s[a], s[b]] = [s[b]!, s[a]!]);
  for (let i = 0, j = 0; i < 256; i++) swap(i, (j = (j + s[i]! + key[i % 16]!) % 256));
  const out = Buffer.alloc(bytes.length);
  for (let n = 0, i = 0, j = 0; n < bytes.length; n++) {
    i = (i + 1) % 256;
    j = (j + s[i]!) % 256;
    swap(i, j);
    out[n] = bytes[n]! ^ s[(s[i]! + s[j]!) % 256]!;
  }
  return out;
}
