/** How pictures of a film lie in its packets, one in each: read and written by ffmpeg. */
import { FaultError } from '../../../core/faults';
import { writeIvf, type FilmPacket, type FilmStream } from '../../../core/forms/film';
import type { FilmOptions } from '../../shapes';
import { input } from '../../../programs';

/** What a packet is read with. */
export type ReadPacket = (packet: FilmPacket) => Promise<Uint8Array>;

interface WriteOrder {
  readonly stream: FilmStream;
  /** Bits a second that are aimed at. */
  readonly bits: number;
  /** Channels of the pictures of the game. */
  readonly channels: number;
  readonly fitOptions: FilmOptions;
}

interface PictureCodec {
  /** Of the files that ffmpeg writes, a picture in each. */
  readonly ending: string;
  /** A picture depends on those before it, or is stored with loss: there is a quality to choose. */
  readonly lossy: boolean;
  /** ffmpeg's arguments to write them. */
  write(order: WriteOrder): readonly string[];
  /** ffmpeg's arguments to read them from a pipe, and what is poured into it. */
  read(
    stream: FilmStream,
    read: ReadPacket,
  ): { readonly args: readonly string[]; readonly feed: AsyncIterable<Uint8Array> };
}

/** ffmpeg's names of pixels, by how many channels a PNG has. */
const PIXELS: Readonly<Record<number, string>> = { 1: 'gray', 2: 'ya8', 3: 'rgb24', 4: 'rgba' };

/** `-q:v` of JPEG, by what is wished for. */
const JPEG_QUALITY = { fine: '2', even: '4', small: '9' } as const;

/** A keyframe comes at least this often, in seconds. */
const KEYFRAME_SECONDS = 2;

const rated = ({ stream, bits, fitOptions }: WriteOrder): string[] => [
  ...['-pix_fmt', 'yuv420p', '-b:v', String(bits)],
  ...['-g', String(fitOptions.keyframes ?? Math.max(1, Math.round(stream.rate * KEYFRAME_SECONDS)))],
];

const stills: PictureCodec['read'] = (stream, read) => ({
  args: ['-f', 'image2pipe', '-framerate', String(stream.rate), ...input('pipe:0')],
  feed: atEvenRate(stream, read),
});

const raw =
  (format: string): PictureCodec['read'] =>
  (stream, read) => ({
    args: ['-f', format, '-framerate', String(stream.rate), ...input('pipe:0')],
    feed: inTurn(stream, read),
  });

const framed =
  (codec: string): PictureCodec['read'] =>
  (stream, read) => ({
    args: ['-f', 'ivf', ...input('pipe:0')],
    feed: writeIvf({ ...stream, codec }, inTurn(stream, read)),
  });

/** No picture waits for a later one: packets lie in the order in which they are shown. */
const VPX = ['-lag-in-frames', '0', '-auto-alt-ref', '0', '-deadline', 'good', '-cpu-used', '4'];

const CODECS: Readonly<Record<string, PictureCodec>> = {
  png: {
    ending: 'png',
    lossy: false,
    write: ({ channels }) => ['-c:v', 'png', '-pix_fmt', PIXELS[channels] ?? 'rgba'],
    read: stills,
  },
  jpeg: {
    ending: 'jpg',
    lossy: true,
    write: ({ fitOptions }) => [
      ...['-c:v', 'mjpeg', '-pix_fmt', 'yuvj420p'],
      ...['-q:v', JPEG_QUALITY[fitOptions.quality ?? 'even']],
    ],
    read: stills,
  },
  h264: {
    ending: 'h264',
    lossy: true,
    write: (order) => ['-c:v', 'libx264', '-bf', '0', '-preset', order.fitOptions.preset ?? 'medium', ...rated(order)],
    read: raw('h264'),
  },
  mpeg2: {
    ending: 'm2v',
    lossy: true,
    write: (order) => ['-c:v', 'mpeg2video', '-bf', '0', ...rated(order)],
    read: raw('mpegvideo'),
  },
  vp8: {
    ending: 'vp8',
    lossy: true,
    write: (order) => ['-c:v', 'libvpx', ...VPX, ...rated(order)],
    read: framed('VP80'),
  },
  vp9: {
    ending: 'vp9',
    lossy: true,
    write: (order) => ['-c:v', 'libvpx-vp9', ...VPX, ...rated(order)],
    read: framed('VP90'),
  },
};

/** @throws FaultError `wrong-kind` for a codec that nothing here reads or writes */
export function pictureCodec({ codec }: FilmStream): PictureCodec {
  const known = CODECS[codec];
  if (known !== undefined) return known;
  throw new FaultError({
    code: 'wrong-kind',
    what: 'nothing here reads or writes pictures of that codec',
    found: codec,
    expected: Object.keys(CODECS).join(', '),
    hint: 'Its packets go out as stored.',
  });
}

/** Whether there is a quality to choose. */
export const isLossy = ({ codec }: FilmStream): boolean => CODECS[codec]?.lossy === true;

/** Bits a second that the pictures of a stream take. */
export function bitsOf({ packets, rate }: FilmStream): number {
  const bytes = packets.reduce((sum, { size }) => sum + size, 0);
  return packets.length === 0 ? 0 : (bytes * 8 * rate) / packets.length;
}

/** Keyframes at an even rate: one that is longer comes again. */
async function* atEvenRate({ packets, rate }: FilmStream, read: ReadPacket): AsyncGenerator<Uint8Array> {
  const last = packets.at(-1)?.time ?? 0;
  let next = 0;
  let bytes: Uint8Array | undefined;
  for (let tick = 0; (tick * 1000) / rate <= last + 0.5; tick++) {
    // Times are whole milliseconds: half of one is no difference.
    while (next < packets.length && packets[next]!.time <= (tick * 1000) / rate + 0.75)
      bytes = await read(packets[next++]!);
    if (bytes !== undefined) yield bytes;
  }
}

async function* inTurn({ packets }: FilmStream, read: ReadPacket): AsyncGenerator<Uint8Array> {
  for (const packet of packets) yield read(packet);
}
