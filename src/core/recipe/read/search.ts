import type { ByteSource } from '../../bytes';
import { throwIfStopped } from '../../faults';

const PIECE_BYTES = 4 << 20;

/**
 * The offset of the first occurrence at or behind `start`, or of the last one before it when searching backwards.
 *
 * @returns undefined when there is none
 */
export async function searchBytes(
  source: ByteSource,
  wanted: Uint8Array,
  start: number,
  backwards: boolean,
  signal?: AbortSignal,
): Promise<number | undefined> {
  const overlap = wanted.length - 1;
  if (!backwards) {
    for (let at = start; at + wanted.length <= source.size; at += PIECE_BYTES) {
      throwIfStopped(signal);
      const piece = await source.read(at, Math.min(PIECE_BYTES + overlap, source.size - at));
      const found = asBuffer(piece).indexOf(wanted);
      if (found >= 0) return at + found;
    }
    return undefined;
  }
  for (let end = Math.min(start, source.size); end >= wanted.length; end -= PIECE_BYTES) {
    throwIfStopped(signal);
    const at = Math.max(0, end - PIECE_BYTES - overlap);
    const found = asBuffer(await source.read(at, end - at)).lastIndexOf(wanted);
    if (found >= 0) return at + found;
  }
  return undefined;
}

function asBuffer(bytes: Uint8Array): Buffer {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}
