/** Compressed streams without a length, found by unpacking them: zlib (RFC 1950) and gzip (RFC 1952) check themselves. */
import { crc32 } from '@node-rs/crc32';
import { constants, inflateRawSync, inflateSync } from 'node:zlib';
import type { ByteSource } from '../bytes';

export interface FoundStream {
  /** Packed bytes. */
  readonly stored: number;
  readonly plain: Uint8Array;
}

const FIRST_BYTES = 32 << 10;
/** Longer streams are left alone: they are unpacked whole to find their end. */
const MAX_STORED = 64 << 20;
const MAX_PLAIN = 256 << 20;
/** Shorter ones prove too little. */
const LEAST_PLAIN = 24;
/** CRC-32 and size behind a gzip stream. */
const GZIP_TRAILER = 8;

/** The stream that begins at an offset, or undefined when it does not unpack to its end. */
export async function streamAt(
  source: ByteSource,
  at: number,
  method: 'zlib' | 'gzip',
): Promise<FoundStream | undefined> {
  for (let length = FIRST_BYTES; ; length *= 4) {
    const room = Math.min(length, source.size - at, MAX_STORED);
    const bytes = Buffer.from(await source.read(at, room));
    const last = room === source.size - at || room === MAX_STORED;
    const unpacked = method === 'zlib' ? unpack(bytes, inflateSync, last) : unpackGzip(bytes, last);
    if (unpacked === undefined) return undefined;
    if (unpacked.stored < room || last) return unpacked.plain.length < LEAST_PLAIN ? undefined : unpacked;
  }
}

/** @param whole what is cut off is a fault; else only the start was read */
function unpack(
  bytes: Uint8Array,
  inflate: typeof inflateSync | typeof inflateRawSync,
  whole: boolean,
): FoundStream | undefined {
  try {
    const { buffer, engine } = inflate(bytes, {
      info: true,
      finishFlush: whole ? constants.Z_FINISH : constants.Z_SYNC_FLUSH,
      maxOutputLength: MAX_PLAIN,
    }) as unknown as { buffer: Buffer; engine: { bytesWritten: number } };
    return { stored: engine.bytesWritten, plain: buffer };
  } catch {
    return undefined;
  }
}

/** One member, by its parts: the library would take what follows for another member. */
function unpackGzip(bytes: Buffer, whole: boolean): FoundStream | undefined {
  const start = gzipHeader(bytes);
  const body = start === undefined ? undefined : unpack(bytes.subarray(start), inflateRawSync, whole);
  if (start === undefined || body === undefined) return undefined;
  const end = start + body.stored;
  // Its end was not reached: more has to be read.
  if (end + GZIP_TRAILER > bytes.length) return whole ? undefined : { stored: bytes.length, plain: body.plain };
  const agrees =
    bytes.readUInt32LE(end) === crc32(body.plain) && bytes.readUInt32LE(end + 4) === body.plain.length % 2 ** 32;
  return agrees ? { stored: end + GZIP_TRAILER, plain: body.plain } : undefined;
}

/** Where the packed bytes begin behind the header. */
function gzipHeader(bytes: Buffer): number | undefined {
  const flags = bytes[3] ?? 0xff;
  if (bytes.length < 10 || (flags & 0xe0) !== 0) return undefined;
  let at = 10;
  if ((flags & 4) !== 0) at += 2 + (at + 2 <= bytes.length ? bytes.readUInt16LE(at) : 0);
  for (const text of [8, 16]) {
    if ((flags & text) === 0) continue;
    const end = bytes.indexOf(0, at);
    if (end < 0) return undefined;
    at = end + 1;
  }
  return at + ((flags & 2) === 0 ? 0 : 2);
}
