/** The bytes of a planned volume as if it had been written already. */
import { checkRange, type ByteSource } from '../../../bytes';
import type { Piece, PlannedVolume } from '../rendering/planned';

/** Index of the last piece that starts at or before an offset; pieces are ascending and without holes. */
export function pieceIndexAt(pieces: readonly Piece[], offset: number): number {
  let low = 0;
  let high = pieces.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (pieces[middle]!.at <= offset) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/**
 * A source over a volume that exists only as a plan: reads come from the pieces it is made of, so a plan can be opened and
 * compared before a byte of it is written.
 */
export function plannedSource(volume: PlannedVolume): ByteSource {
  const { name, size, pieces } = volume;
  return {
    name,
    size,
    read: async (offset, length) => {
      checkRange(name, size, offset, length);
      if (length === 0) return new Uint8Array(0);
      const first = pieceIndexAt(pieces, offset);
      const start = pieces[first]!;
      if (offset + length <= start.at + start.length) return start.source.read(start.from + offset - start.at, length);
      const bytes = new Uint8Array(length);
      for (let i = first, done = 0; done < length; i++) {
        const piece = pieces[i]!;
        const skip = offset + done - piece.at;
        const count = Math.min(piece.length - skip, length - done);
        bytes.set(await piece.source.read(piece.from + skip, count), done);
        done += count;
      }
      return bytes;
    },
  };
}
