import type { ByteSource } from '../../bytes';
import { throwIfStopped } from '../../faults';

const PIECE_BYTES = 4 << 20;

/** Where a search begins, and the offset it does not cross. */
export interface SearchSpan {
  readonly start: number;
  readonly stop: number;
  readonly backwards: boolean;
}

/**
 * The offset of the first occurrence that lies between `start` and `stop`, or of the last one when searching backwards.
 *
 * @returns undefined when there is none
 */
export async function searchBytes(
  source: ByteSource,
  wanted: Uint8Array,
  { start, stop, backwards }: SearchSpan,
  signal?: AbortSignal,
): Promise<number | undefined> {
  const overlap = wanted.length - 1;
  if (!backwards) {
    const last = Math.min(stop, source.size);
    for (let at = start; at + wanted.length <= last; at += PIECE_BYTES) {
      throwIfStopped(signal);
      const piece = await source.read(at, Math.min(PIECE_BYTES + overlap, last - at));
      const found = asBuffer(piece).indexOf(wanted);
      if (found >= 0) return at + found;
    }
    return undefined;
  }
  for (let end = Math.min(start, source.size); end - stop >= wanted.length; end -= PIECE_BYTES) {
    throwIfStopped(signal);
    const at = Math.max(stop, end - PIECE_BYTES - overlap);
    const found = asBuffer(await source.read(at, end - at)).lastIndexOf(wanted);
    if (found >= 0) return at + found;
  }
  return undefined;
}

function asBuffer(bytes: Uint8Array): Buffer {
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}
