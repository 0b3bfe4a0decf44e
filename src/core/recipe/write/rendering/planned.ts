/** What a planned archive is: its files piece by piece, and writing them. */
import { readChunks, type ByteSink, type ByteSource } from '../../../bytes';
import { throwIfStopped } from '../../../faults';
import type { Value } from '../../formula/value';
import type { OpenedArchive } from '../../read/opened-archive';
import { baseName, isListing, volumeName } from '../../read/volumes';
import { verifyWritten } from '../checking/written';

/** One stretch of the new file. */
export interface Piece {
  readonly at: number;
  readonly length: number;
  readonly source: ByteSource;
  /** Offset in `source`. */
  readonly from: number;
  /** What the bytes are: copied as they were, or new. */
  readonly kind: 'copied' | 'region' | 'entry' | 'fill';
}

/** One file of a plan. */
export interface PlannedVolume {
  readonly name: string;
  readonly size: number;
  /** Ascending, without holes. */
  readonly pieces: readonly Piece[];
  /** The old volume it comes from. */
  readonly base: ByteSource | undefined;
}

/** An archive that is ready to be written. */
export interface Plan {
  /** The main one first. */
  readonly volumes: readonly PlannedVolume[];
  /** Bytes of all volumes. */
  readonly size: number;
  readonly entryCount: number;
  /** Where the bytes of each new or changed entry will lie, by path. */
  readonly changed: readonly {
    readonly path: string;
    readonly at: number;
    readonly stored: number;
    readonly size: number;
    readonly method: Value;
  }[];
  /** Bytes that had to move although nothing in them changed. */
  readonly movedBytes: number;
  readonly rounds: number;
}

export function whole(source: ByteSource, kind: Piece['kind']): Piece {
  return { at: 0, length: source.size, source, from: 0, kind };
}

/** A plan in which nothing is different. */
export function planOfCopies(archive: OpenedArchive, name: string): Plan {
  const { recipe, outer } = archive;
  const volumes = archive.volumes
    .filter(({ set }) => !isListing(recipe, set))
    .map(({ set, number, source, name: own }, i): PlannedVolume => {
      const base = i === 0 && recipe.wrapped.length > 0 ? outer : source;
      const called = set.anyFile ? own : i === 0 ? baseName(name) : volumeName(set, name, number);
      return { name: called, size: base.size, pieces: [whole(base, 'copied')], base };
    });
  const size = volumes.reduce((sum, volume) => sum + volume.size, 0);
  return { volumes, size, entryCount: archive.entries.count, changed: [], movedBytes: 0, rounds: 1 };
}

/** Read in one go: a volume may be made of hundreds of thousands of pieces. */
const SMALL_PIECE_BYTES = 1 << 16;

/** True when a planned volume comes out as the file it is made from. */
export async function isUnchanged(volume: PlannedVolume, source: ByteSource): Promise<boolean> {
  if (volume.size !== source.size) return false;
  for (const piece of volume.pieces) {
    if (piece.source === source && piece.from === piece.at) continue;
    if (piece.length <= SMALL_PIECE_BYTES) {
      const made = await piece.source.read(piece.from, piece.length);
      if (Buffer.compare(made, await source.read(piece.at, piece.length)) !== 0) return false;
      continue;
    }
    let at = piece.at;
    for await (const chunk of readChunks(piece.source, piece.from, piece.length)) {
      if (Buffer.compare(chunk, await source.read(at, chunk.length)) !== 0) return false;
      at += chunk.length;
    }
  }
  return true;
}

/** True when every volume comes out as the one it is made from. */
export async function isCopy(volumes: readonly PlannedVolume[]): Promise<boolean> {
  for (const volume of volumes)
    if (volume.base === undefined || !(await isUnchanged(volume, volume.base))) return false;
  return true;
}

/** Bytes of a planned volume that are where they were in the file it is made from. */
export function keptInPlace({ pieces, base }: PlannedVolume): number {
  return pieces.reduce((sum, piece) => sum + (isInPlace(piece, base) ? piece.length : 0), 0);
}

const isInPlace = ({ source, from, at }: Piece, base: ByteSource | undefined) => source === base && from === at;

export interface WriteOptions {
  readonly signal?: AbortSignal | undefined;
  /** Bytes written so far. */
  readonly progress?: (done: number) => void;
}

/** The bytes of one planned volume, in order. */
export async function* volumeBytes(volume: PlannedVolume, options: WriteOptions = {}): AsyncGenerator<Uint8Array> {
  let done = 0;
  for (const piece of volume.pieces) {
    const signal = options.signal === undefined ? {} : { signal: options.signal };
    for await (const chunk of readChunks(piece.source, piece.from, piece.length, { pieceSize: 4 << 20, ...signal })) {
      yield chunk;
      done += chunk.length;
      options.progress?.(done);
    }
  }
}

/** Writes one volume; what is already in place in the sink is skipped. The sink is left open. */
export async function writeVolume(volume: PlannedVolume, sink: ByteSink, options: WriteOptions): Promise<void> {
  const { skip } = sink;
  if (skip === undefined) {
    for await (const chunk of volumeBytes(volume, options)) await sink.write(chunk);
    return;
  }
  for (const piece of volume.pieces) {
    throwIfStopped(options.signal);
    if (isInPlace(piece, volume.base)) await skip(piece.length);
    else
      for await (const chunk of volumeBytes({ ...volume, pieces: [piece] }, { ...options, progress: () => {} }))
        await sink.write(chunk);
    options.progress?.(piece.at + piece.length);
  }
}

/**
 * Writes a planned archive; on any failure nothing of it is left.
 *
 * @param sinkFor gives the sink of a volume
 */
export async function writePlan(
  plan: Plan,
  sinkFor: (volume: PlannedVolume) => Promise<ByteSink>,
  options: WriteOptions = {},
): Promise<void> {
  const sinks: ByteSink[] = [];
  let before = 0;
  try {
    for (const volume of plan.volumes) {
      const sink = await sinkFor(volume);
      sinks.push(sink);
      const start = before;
      const progress =
        options.progress === undefined ? {} : { progress: (done: number) => options.progress!(start + done) };
      await writeVolume(volume, sink, { ...options, ...progress });
      before += volume.size;
    }
    for (const [i, sink] of sinks.entries()) {
      const written = await sink.written?.();
      if (written !== undefined) await verifyWritten(plan.volumes[i]!, written, options.signal);
    }
    // Only when every byte is there, and is read back as it was meant, do the files get their names.
    for (const sink of sinks) await sink.close();
  } catch (error) {
    for (const sink of sinks) await sink.abandon();
    throw error;
  }
}
