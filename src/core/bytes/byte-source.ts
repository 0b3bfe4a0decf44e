import { FormatError, throwIfStopped } from '../faults';

/**
 * Bytes that can be read anywhere. Every reader takes one of these, so that a file, a buffer, a slice or an unlocked
 * entry are all the same to it.
 */
export interface ByteSource {
  /** For messages: a file name, or where the bytes come from. Never used to find them. */
  readonly name: string;
  /** In bytes. */
  readonly size: number;
  /**
   * Reads exactly `length` bytes from `offset`. The caller must not change the result: it may be a view.
   *
   * @throws FormatError `cut-short` when the range leaves the source; too few bytes is never a short answer.
   */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** A source over bytes in memory; reads are views, not copies. */
export function bufferSource(bytes: Uint8Array, name = 'memory'): ByteSource {
  return {
    name,
    size: bytes.length,
    read: async (offset, length) => {
      checkRange(name, bytes.length, offset, length);
      return bytes.subarray(offset, offset + length);
    },
  };
}

/** The stretch `[at, at + length)` of another source, as a source of its own. */
export function sliceSource(source: ByteSource, at: number, length: number, name = source.name): ByteSource {
  checkRange(source.name, source.size, at, length);
  return {
    name,
    size: length,
    read: async (offset, count) => {
      checkRange(name, length, offset, count);
      return source.read(at + offset, count);
    },
  };
}

/** Sources one after the other, as one. */
export function joinedSource(parts: readonly ByteSource[], name: string): ByteSource {
  const ends: number[] = [];
  for (const part of parts) ends.push((ends.at(-1) ?? 0) + part.size);
  const size = ends.at(-1) ?? 0;
  return {
    name,
    size,
    read: async (offset, length) => {
      checkRange(name, size, offset, length);
      const bytes = new Uint8Array(length);
      for (const [i, part] of parts.entries()) {
        const start = ends[i]! - part.size;
        const from = Math.max(offset, start);
        const to = Math.min(offset + length, ends[i]!);
        if (from < to) bytes.set(await part.read(from - start, to - from), from - offset);
      }
      return bytes;
    },
  };
}

/** A source whose bytes are made when they are first read. */
export function lazySource(name: string, size: number, make: () => Promise<ByteSource>): ByteSource {
  let made: Promise<ByteSource> | undefined;
  return { name, size, read: async (offset, length) => (await (made ??= make())).read(offset, length) };
}

/** A copy of its own, always a plain Uint8Array: a Node Buffer's own `slice` is only a view. */
export function copyOf(bytes: Uint8Array, from = 0, to = bytes.length): Uint8Array<ArrayBuffer> {
  return new Uint8Array(bytes.subarray(from, to));
}

/** Small enough for the caches of a core, large enough that a call costs nothing. */
const DEFAULT_PIECE_BYTES = 512 << 10;

/** Reads `[at, at + length)` piece by piece, in order; pieces are at most `pieceSize` bytes long. */
export async function* readChunks(
  source: ByteSource,
  at = 0,
  length = source.size - at,
  options: { pieceSize?: number; signal?: AbortSignal } = {},
): AsyncGenerator<Uint8Array> {
  checkRange(source.name, source.size, at, length);
  const pieceSize = options.pieceSize ?? DEFAULT_PIECE_BYTES;
  const pieceAt = (done: number) => {
    throwIfStopped(options.signal);
    const piece = source.read(at + done, Math.min(pieceSize, length - done));
    // No one may be left to hear of a piece that was read ahead.
    piece.catch(() => {});
    return piece;
  };
  let next = length > 0 ? pieceAt(0) : undefined;
  for (let done = 0; next !== undefined;) {
    const piece = await next;
    done += piece.length;
    // The next piece is on its way while this one is worked on: reading and writing overlap.
    next = done < length ? pieceAt(done) : undefined;
    yield piece;
  }
}

/** @throws FormatError `cut-short` unless `[offset, offset + length)` lies in a source of `size` bytes. */
export function checkRange(name: string, size: number, offset: number, length: number): void {
  if (
    Number.isSafeInteger(offset) &&
    Number.isSafeInteger(length) &&
    offset >= 0 &&
    length >= 0 &&
    offset + length <= size
  )
    return;
  throw new FormatError({
    code: 'cut-short',
    file: name,
    offset: Math.max(0, offset),
    expected: `${length.toLocaleString('en')} bytes from there`,
    found: `the end at 0x${size.toString(16).toUpperCase()}`,
    hint: 'The file may be incomplete.',
  });
}
