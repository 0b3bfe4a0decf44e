/** Compressed streams without a length, found by unpacking them: zlib (RFC 1950) and gzip (RFC 1952) check themselves. */
import { constants, gunzipSync, inflateSync } from 'node:zlib';
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

/** The stream that begins at an offset, or undefined when it does not unpack to its end. */
export async function streamAt(
  source: ByteSource,
  at: number,
  method: 'zlib' | 'gzip',
): Promise<FoundStream | undefined> {
  for (let length = FIRST_BYTES; ; length *= 4) {
    const room = Math.min(length, source.size - at, MAX_STORED);
    const bytes = await source.read(at, room);
    const last = room === source.size - at || room === MAX_STORED;
    const unpacked = unpack(bytes, method, last);
    if (unpacked === undefined) return undefined;
    if (unpacked.stored < room || last) return unpacked.plain.length < LEAST_PLAIN ? undefined : unpacked;
  }
}

function unpack(bytes: Uint8Array, method: 'zlib' | 'gzip', whole: boolean): FoundStream | undefined {
  const run = method === 'zlib' ? inflateSync : gunzipSync;
  try {
    const { buffer, engine } = run(bytes, {
      info: true,
      // What is cut off because only its start was read is no fault yet.
      finishFlush: whole ? constants.Z_FINISH : constants.Z_SYNC_FLUSH,
      maxOutputLength: MAX_PLAIN,
    }) as unknown as { buffer: Buffer; engine: { bytesWritten: number } };
    return { stored: engine.bytesWritten, plain: buffer };
  } catch {
    return undefined;
  }
}
