/** The fourth part of the proof: entries changed, written and read again. */
import type { ByteSource } from '../../bytes';
import { FaultError, throwIfStopped } from '../../faults';
import type { OpenedArchive } from '../read/opened-archive';
import { readEntry } from '../read/entry-bytes';
import { NO_EDITS } from '../write/edits/edits';
import { madeEntries } from '../write/edits/made';
import { planRebuild } from '../write/plan';
import type { Proof, ProveOptions } from './proof';

const DEFAULT_MAX_CHANGED_BYTES = 1 << 30;
/** What ten thousand entries do not show, a hundred thousand of the same kind seldom do. */
const MOST_CHANGED_ENTRIES = 10_000;

/** Other bytes for entries, by their index. */
export type Altered = ReadonlyMap<number, ByteSource>;

/** @param progress entries done, of all there are */
export async function proveChanged(
  archive: OpenedArchive,
  options: ProveOptions,
  progress: (done: number) => void,
): Promise<Proof['changed']> {
  const { scratch, signal } = options;
  const total = archive.entries.count;
  let tested = 0;
  try {
    const replace = await alteredEntries(archive, options, progress);
    tested = replace.size;
    // A plan is opened again and compared with what was meant, entry by entry, before it is given out.
    await planRebuild(archive, { ...NO_EDITS, replace }, { layout: archive.recipe.layouts[0]!, scratch, signal });
    progress(total);
    return { equal: tested, tested, total };
  } catch (error) {
    if (error instanceof FaultError && error.fault.code !== 'stopped')
      return { equal: 0, tested: Math.max(1, tested), total, first: error.fault };
    throw error;
  }
}

/** @throws FaultError when an entry that is not known to be damaged cannot be read */
export async function alteredEntries(
  archive: OpenedArchive,
  { scratch, signal, maxChangedBytes = DEFAULT_MAX_CHANGED_BYTES }: ProveOptions,
  progress: (done: number) => void,
): Promise<Altered> {
  const { entries } = archive;
  const chosen = chooseEntries(archive, maxChangedBytes);
  const altered = new Map<number, ByteSource>();
  let left = maxChangedBytes;
  for (const [i, entry] of chosen.entries()) {
    throwIfStopped(signal);
    const plain = atMost(readEntry(archive, entry, { signal, verify: false }), left);
    const bytes = await scratch.keep(alter(plain), entries.path(entry));
    left -= bytes.size;
    // An entry whose size only shows when it is unpacked may be too large after all.
    if (left < 0) break;
    altered.set(entry, bytes);
    progress(Math.floor(((i + 1) / chosen.length / 2) * entries.count));
  }
  return altered;
}

/** All entries, or evenly spread ones whose plain bytes fit together. */
function chooseEntries(archive: OpenedArchive, maxBytes: number): number[] {
  const { entries } = archive;
  const made = madeEntries(archive);
  const all = Array.from({ length: entries.count }, (_, i) => i).filter(
    (i) =>
      !entries.isDeleted(i) &&
      !entries.isDirectory(i) &&
      entries.link(i) === undefined &&
      entries.damage(i) === undefined &&
      !made.has(i),
  );
  const sizeOf = (entry: number) => (Number.isNaN(entries.size(entry)) ? entries.stored(entry) : entries.size(entry));
  const bytes = all.reduce((sum, entry) => sum + sizeOf(entry), 0);
  if (bytes <= maxBytes && all.length <= MOST_CHANGED_ENTRIES) return all;
  const step = Math.ceil(Math.max(bytes / maxBytes, all.length / MOST_CHANGED_ENTRIES));
  let left = maxBytes;
  return all.filter((entry) => entry % step === 0 && (left -= sizeOf(entry)) >= 0);
}

/** Other bytes of another length: the first byte inverted and one more at the end. */
async function* alter(plain: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let first = true;
  for await (const chunk of plain) {
    if (chunk.length === 0) continue;
    const altered = first ? Uint8Array.from(chunk) : chunk;
    if (first) altered[0] = ~altered[0]! & 0xff;
    first = false;
    yield altered;
  }
  yield new Uint8Array([first ? 0xff : 0]);
}

/** The chunks up to one that ends beyond `most` bytes. */
async function* atMost(chunks: AsyncIterable<Uint8Array>, most: number): AsyncGenerator<Uint8Array> {
  let total = 0;
  for await (const chunk of chunks) {
    yield chunk;
    total += chunk.length;
    if (total > most) return;
  }
}
