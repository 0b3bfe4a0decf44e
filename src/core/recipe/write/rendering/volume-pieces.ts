/** The pieces a volume is made of, once everything has its place. */
import { bufferSource, type ByteSource } from '../../../bytes';
import { FormatError } from '../../../faults';
import type { Draft } from '../model/draft';
import type { NewVolume } from '../placement/new-volumes';
import type { Placed } from '../placement/place';
import type { Piece } from './planned';
import type { RenderedRegion } from './render';

export interface VolumeContent {
  readonly draft: Draft;
  readonly volume: NewVolume;
  readonly placed: readonly Placed[];
  readonly rendered: readonly RenderedRegion[];
  readonly fill: number;
}

/**
 * @returns the pieces, ascending and without holes, and how many bytes moved although nothing in them changed
 * @throws FormatError `layout-impossible` when two of them would have to lie in one place
 */
export function volumePieces({ draft, volume, placed, rendered, fill }: VolumeContent): {
  readonly pieces: Piece[];
  readonly moved: number;
} {
  const { entries, setting } = draft;
  const { archive, recipe } = setting;
  const source = volume.old === undefined ? undefined : archive!.volumes[volume.old]!.source;
  const pieces: Piece[] = [];
  let end = 0;
  let moved = 0;
  const put = (at: number, length: number, from: Omit<Piece, 'at' | 'length'>, entry?: number) => {
    if (at > end) pieces.push({ at: end, length: at - end, source: fillSource(fill), from: 0, kind: 'fill' });
    if (length === 0) {
      end = Math.max(end, at);
      return;
    }
    if (at < end) {
      if (isInside(pieces, at, length, from)) return;
      throw new FormatError({
        code: 'layout-impossible',
        recipe: recipe.id,
        ...(entry === undefined ? {} : { entry: draft.path(entry) }),
        ...(recipe.entries.at === undefined ? {} : { line: recipe.entries.at.line, field: recipe.entries.at.text }),
        what: 'two parts of the file would have to lie in one place',
        offset: at,
        expected: `an offset from 0x${end.toString(16).toUpperCase()} on`,
        found: `0x${at.toString(16).toUpperCase()}`,
      });
    }
    pieces.push({ at, length, ...from });
    end = at + length;
    if (from.kind === 'copied' && from.from !== at) moved += length;
  };
  for (const { block, at, length } of placed) {
    switch (block.kind) {
      case 'region': {
        const { stretches } = rendered.find(({ region }) => region.index === block.region)!.parts[block.part]!;
        // Even a region of no bytes is reached through the fill before it.
        if (length === 0) put(at, 0, { source: fillSource(fill), from: 0, kind: 'fill' });
        let offset = at;
        for (const { bytes, spliced } of stretches) {
          if (bytes !== undefined) put(offset, bytes.length, { source: bufferSource(bytes), from: 0, kind: 'region' });
          else if (spliced!.out !== undefined)
            put(offset, spliced!.length, { source: entries.fresh(spliced!.out)!.stored, from: 0, kind: 'entry' });
          else if (spliced!.length > 0)
            put(offset, spliced!.length, { source: source ?? archive!.source, from: spliced!.from!, kind: 'copied' });
          offset += bytes?.length ?? spliced!.length;
        }
        break;
      }
      case 'entry':
        put(at, length, { source: entries.fresh(block.out)!.stored, from: 0, kind: 'entry' }, block.out);
        break;
      case 'run': {
        const [out] = block.entries;
        const resealed = block.entries.length === 1 ? entries.fresh(out!) : undefined;
        // In a new layout, entries come from the volume they were in.
        const home = source ?? archive!.volumes[archive!.entries.volume(entries.base(out!)!)]!.source;
        if (resealed !== undefined) put(at, length, { source: resealed.stored, from: 0, kind: 'entry' }, out);
        else put(at, length, { source: home, from: block.from, kind: 'copied' }, out);
        break;
      }
      case 'gap':
        put(at, length, { source: source!, from: block.from, kind: 'copied' });
        break;
      case 'tail':
        put(at, length, { source: fillSource(block.fill), from: 0, kind: 'fill' });
        break;
      default:
        block satisfies never;
    }
  }
  return { pieces, moved };
}

/** True when the bytes are there already: entries that share theirs. */
function isInside(pieces: readonly Piece[], at: number, length: number, from: Omit<Piece, 'at' | 'length'>): boolean {
  for (let i = pieces.length - 1; i >= 0; i--) {
    const piece = pieces[i]!;
    if (piece.at > at) continue;
    return (
      piece.source === from.source && piece.from + at - piece.at === from.from && at + length <= piece.at + piece.length
    );
  }
  return false;
}

/** A source of one repeated byte, as long as anyone asks for. */
function fillSource(value: number): ByteSource {
  return { name: 'fill', size: Number.MAX_SAFE_INTEGER, read: async (_, length) => new Uint8Array(length).fill(value) };
}
