/** Zstandard, by a library that is WebAssembly: frames one after the other, with a dictionary or none. */
import {
  compress,
  compressUsingDict,
  createCCtx,
  createDCtx,
  decompress,
  decompressUsingDict,
  freeCCtx,
  freeDCtx,
  init,
} from '@bokuweb/zstd-wasm';
import { zstdFrames } from './claims';

let ready: Promise<void> | undefined;

/** Loads the library; done once for each process. */
export function prepareZstd(): Promise<void> {
  return (ready ??= init() as Promise<void>);
}

/** What the library's numbers mean, by the published list of Zstandard's errors. */
const ZSTD_ERRORS: Readonly<Record<string, string>> = {
  '-10': 'no Zstandard frame',
  '-14': 'a frame of a kind that is not supported',
  '-16': 'its window is too large',
  '-20': 'its blocks are damaged',
  '-22': 'its checksum differs',
  '-32': 'it needs a dictionary',
  '-70': 'more bytes than its header says',
  '-72': 'cut short',
};

/**
 * The plain bytes of all frames of a stretch.
 *
 * @throws Error with what is wrong in words; one with the code `ERR_BUFFER_TOO_LARGE` when they are more than allowed
 */
export function unpackZstd(stored: Uint8Array, maxPlainBytes: number, dictionary: Uint8Array | undefined): Uint8Array {
  const frames = zstdFrames(stored);
  if (frames === undefined) throw new Error('no whole Zstandard frames');
  const unpack = (part: Uint8Array, room: number) => {
    try {
      const options = { defaultHeapSize: Math.max(1, room) };
      if (dictionary === undefined) return decompress(part, options);
      const machine = createDCtx();
      try {
        return decompressUsingDict(machine, part, dictionary, options);
      } finally {
        freeDCtx(machine);
      }
    } catch (error) {
      const code = /-\d+$/u.exec(String((error as Error).message))?.[0] ?? '';
      throw new Error(ZSTD_ERRORS[code] ?? `error ${code}`, { cause: error });
    }
  };
  const parts: Uint8Array[] = [];
  let left = maxPlainBytes;
  for (const { start, end, room } of frames) {
    if (room > left) throw Object.assign(new Error('too large'), { code: 'ERR_BUFFER_TOO_LARGE' });
    const plain = unpack(stored.subarray(start, end), room);
    parts.push(plain);
    left -= plain.length;
  }
  return parts.length === 1 ? parts[0]! : new Uint8Array(Buffer.concat(parts));
}

/** One frame. */
export function packZstd(plain: Uint8Array, level: number, dictionary: Uint8Array | undefined): Uint8Array {
  if (dictionary === undefined) return compress(plain, level);
  const machine = createCCtx();
  try {
    return compressUsingDict(machine, plain, dictionary, level);
  } finally {
    freeCCtx(machine);
  }
}
