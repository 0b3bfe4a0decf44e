/** The proof of a recipe on a file: five parts, each with its first failure. */
import { readChunks, type ByteSource, type Scratch } from '../../bytes';
import { createHasher, type Hasher } from '../../codecs';
import { FaultError, hexBytes, throwIfStopped, type Fault } from '../../faults';
import { openTables, type OpenedArchive } from '../read/archive';
import { explainedBytes } from '../read/coverage';
import { readEntry } from '../read/entry-bytes';
import { fieldAt, regionAt } from '../read/explain';
import { NO_EDITS } from '../write/edits/edits';
import { planRebuild } from '../write/plan';
import { volumeBytes } from '../write/rendering/planned';
import { editsHold, proveEdits, type EditProof } from './edit-proof';
import { checkFormulas } from './formula-check';
import { readingFaults } from './reading-checks';

export interface Proof {
  /** Bytes of the file that the recipe explains. */
  readonly bytes: { readonly explained: number; readonly total: number; readonly first?: Fault };
  /**
   * Computed fields that agree with their formula, checksums over every entry's bytes among them; and what a strict
   * reader would not take, which agrees with nothing.
   */
  readonly formulas: { readonly agree: number; readonly total: number; readonly first?: Fault };
  /** Rebuilt without changes: identical or not. */
  readonly identical: { readonly same: boolean; readonly first?: Fault };
  /**
   * Rebuilt with entries changed and read again. All entries are changed while they and their plain bytes stay below a
   * limit; in larger archives evenly spread ones are.
   */
  readonly changed: { readonly equal: number; readonly tested: number; readonly total: number; readonly first?: Fault };
  /** What people do with an archive, in each layout the format allows: done and read back, or refused by name. */
  readonly edits: EditProof;
}

export interface ProveOptions {
  readonly scratch: Scratch;
  readonly signal?: AbortSignal | undefined;
  /** Plain bytes of entries that are changed for the fourth number. Default 1 GiB. */
  readonly maxChangedBytes?: number;
  /** Edits only in the first layout: while somebody writes a recipe. */
  readonly brief?: boolean;
  /** Entries done of `total`, over both passes. */
  readonly progress?: (done: number, total: number) => void;
}

const DEFAULT_MAX_CHANGED_BYTES = 1 << 30;
/** What ten thousand entries do not show, a hundred thousand of the same kind seldom do. */
const MOST_CHANGED_ENTRIES = 10_000;

/** True when nothing is left to be desired but what the format forbids. */
export function isProven(proof: Proof): boolean {
  return (
    proof.bytes.explained === proof.bytes.total &&
    proof.formulas.agree === proof.formulas.total &&
    proof.identical.same &&
    proof.changed.equal === proof.changed.tested &&
    editsHold(proof.edits)
  );
}

/**
 * Proves the recipe of an opened archive on its file.
 *
 * @throws CancelledError when stopped; faults of the file are part of the proof
 */
export async function prove(archive: OpenedArchive, options: ProveOptions): Promise<Proof> {
  const { signal } = options;
  const steps = archive.entries.count * 2;
  const bytes = await proveBytes(archive, signal);
  const check = await checkFormulas(archive, {
    deep: true,
    signal,
    progress: (done) => options.progress?.(done, steps),
  });
  const strict = readingFaults(archive, signal);
  const identical = await proveIdentical(archive, options);
  const changed = await proveChanged(archive, options, (done) =>
    options.progress?.(archive.entries.count + done, steps),
  );
  const edits = await proveEdits(archive, options);
  return {
    bytes,
    edits,
    formulas: { agree: check.agree, total: check.total + strict.length, ...first(check.faults[0] ?? strict[0]) },
    identical,
    changed,
  };
}

function first(fault: Fault | undefined): { first?: Fault } {
  return fault === undefined ? {} : { first: fault };
}

async function proveBytes(archive: OpenedArchive, signal: AbortSignal | undefined): Promise<Proof['bytes']> {
  const sets = await explainedBytes(archive, signal);
  const total = archive.volumes.reduce((sum, { source }) => sum + source.size, 0);
  const explained = sets.reduce((sum, set) => sum + set.size(), 0);
  for (const [i, { source }] of archive.volumes.entries()) {
    const [hole] = sets[i]!.missing(source.size);
    if (hole === undefined) continue;
    const found = hexBytes(await source.read(hole.at, Math.min(hole.length, 16)), 16);
    const first: Fault = {
      code: 'not-reproduced',
      what: `${hole.length.toLocaleString('en')} bytes that nothing explains`,
      file: source.name,
      recipe: archive.recipe.id,
      offset: hole.at,
      found,
      hint: 'They are kept as they are.',
    };
    return { explained, total, first };
  }
  return { explained, total };
}

async function proveIdentical(archive: OpenedArchive, { scratch, signal }: ProveOptions): Promise<Proof['identical']> {
  try {
    const plan = await planRebuild(archive, NO_EDITS, { layout: archive.recipe.layouts[0]!, scratch, signal });
    for (const [i, volume] of plan.volumes.entries()) {
      const original =
        i === 0 ? (archive.recipe.wrapped.length > 0 ? archive.outer : archive.source) : archive.volumes[i]!.source;
      for (const piece of volume.pieces) {
        throwIfStopped(signal);
        // Bytes copied to where they came from cannot differ.
        if (piece.kind === 'copied' && piece.at === piece.from && piece.source === original) continue;
        const difference = await firstDifference(archive, i, original, piece.at, piece);
        if (difference !== undefined) return { same: false, first: difference };
      }
      if (volume.size === original.size) continue;
      return {
        same: false,
        first: {
          code: 'not-reproduced',
          file: original.name,
          recipe: archive.recipe.id,
          offset: Math.min(volume.size, original.size),
          expected: `${original.size.toLocaleString('en')} bytes`,
          found: `${volume.size.toLocaleString('en')} bytes`,
        },
      };
    }
    return { same: true };
  } catch (error) {
    if (error instanceof FaultError && error.fault.code !== 'stopped') return { same: false, first: error.fault };
    throw error;
  }
}

async function firstDifference(
  archive: OpenedArchive,
  volume: number,
  original: ByteSource,
  at: number,
  piece: { source: ByteSource; from: number; length: number },
): Promise<Fault | undefined> {
  const length = Math.min(piece.length, original.size - at);
  let done = 0;
  for await (const made of readChunks(piece.source, piece.from, Math.max(0, length))) {
    const there = await original.read(at + done, made.length);
    if (Buffer.compare(made, there) !== 0) {
      const index = made.findIndex((byte, i) => byte !== there[i]);
      const offset = at + done + index;
      const field = await fieldAt(archive, volume, offset);
      const region = regionAt(archive, volume, offset);
      return {
        code: 'not-reproduced',
        file: original.name,
        recipe: archive.recipe.id,
        offset,
        ...(region === undefined ? {} : { region }),
        ...(field === undefined ? {} : { field: field.field, line: field.line }),
        expected: hexBytes(there.subarray(index, index + 8)),
        found: hexBytes(made.subarray(index, index + 8)),
      };
    }
    done += made.length;
  }
  return undefined;
}

async function proveChanged(
  archive: OpenedArchive,
  options: ProveOptions,
  progress: (done: number) => void,
): Promise<Proof['changed']> {
  const { scratch, signal } = options;
  const { entries } = archive;
  const mostBytes = options.maxChangedBytes ?? DEFAULT_MAX_CHANGED_BYTES;
  const chosen = chooseEntries(archive, mostBytes);
  const replace = new Map<number, ByteSource>();
  const wanted = new Map<number, string>();
  const total = entries.count;
  let tested = chosen.length;
  let left = mostBytes;
  try {
    for (const [i, entry] of chosen.entries()) {
      throwIfStopped(signal);
      const hasher = createHasher('sha256');
      const plain = atMost(readEntry(archive, entry, { signal, verify: false }), left);
      const altered = await scratch.keep(alter(plain, hasher), entries.path(entry));
      left -= altered.size;
      // An entry whose size only shows when it is unpacked may be too large after all.
      if (left < 0) break;
      replace.set(entry, altered);
      wanted.set(entry, hexOf(hasher));
      progress(Math.floor(((i + 1) / tested / 2) * total));
    }
    tested = replace.size;
    const plan = await planRebuild(
      archive,
      { ...NO_EDITS, replace },
      { layout: archive.recipe.layouts[0]!, scratch, signal },
    );
    const rebuilt: ByteSource[] = [];
    for (const volume of plan.volumes)
      rebuilt.push({ ...(await scratch.keep(volumeBytes(volume, { signal }), volume.name)), name: volume.name });
    const again = await openTables(archive.recipe, rebuilt, {
      keys: archive.keys,
      limits: archive.limits,
      scratch,
      names: namesOf(archive),
    });
    const check = await checkFormulas(again, { deep: true, signal });
    if (check.agree !== check.total) return { equal: 0, tested, total, ...first(check.faults[0]) };
    let equal = 0;
    let failure: Fault | undefined;
    if (again.entries.count !== total)
      return { equal: 0, tested, total, ...first(countDiffers(archive, total, again.entries.count)) };
    for (const [i, entry] of [...replace.keys()].entries()) {
      const hasher = createHasher('sha256');
      for await (const chunk of readEntry(again, entry, { signal })) hasher.update(chunk);
      const found = hexOf(hasher);
      if (found === wanted.get(entry) && again.entries.path(entry) === entries.path(entry)) equal++;
      else
        failure ??= {
          code: 'not-reproduced',
          what: 'a changed entry does not read back as it was written',
          file: archive.source.name,
          entry: entries.path(entry),
          expected: wanted.get(entry)!,
          found,
        };
      progress(Math.floor((0.5 + (i + 1) / tested / 2) * total));
    }
    return { equal, tested, total, ...first(failure) };
  } catch (error) {
    if (error instanceof FaultError && error.fault.code !== 'stopped')
      return { equal: 0, tested, total, first: error.fault };
    throw error;
  }
}

function countDiffers(archive: OpenedArchive, expected: number, found: number): Fault {
  return {
    code: 'not-reproduced',
    what: 'the rebuilt archive holds another number of entries',
    file: archive.source.name,
    recipe: archive.recipe.id,
    expected: String(expected),
    found: String(found),
  };
}

/** Names that name lists gave, for the archive that is read again. */
function* namesOf({ entries, hashes }: OpenedArchive): Generator<string> {
  if (hashes === undefined) return;
  for (let i = 0; i < entries.count; i++) if (entries.isNamed(i)) yield entries.path(i);
}

/** All entries, or evenly spread ones whose plain bytes fit together. */
function chooseEntries({ entries }: OpenedArchive, maxBytes: number): number[] {
  const all = Array.from({ length: entries.count }, (_, i) => i).filter(
    (i) => !entries.isDeleted(i) && entries.damage(i) === undefined,
  );
  const sizeOf = (entry: number) => (Number.isNaN(entries.size(entry)) ? entries.stored(entry) : entries.size(entry));
  const bytes = all.reduce((sum, entry) => sum + sizeOf(entry), 0);
  if (bytes <= maxBytes && all.length <= MOST_CHANGED_ENTRIES) return all;
  const step = Math.ceil(Math.max(bytes / maxBytes, all.length / MOST_CHANGED_ENTRIES));
  let left = maxBytes;
  return all.filter((entry) => entry % step === 0 && (left -= sizeOf(entry)) >= 0);
}

/** Other bytes of another length: the first byte inverted and one more at the end. `hasher` takes them in passing. */
async function* alter(plain: AsyncIterable<Uint8Array>, hasher: Hasher): AsyncGenerator<Uint8Array> {
  let first = true;
  for await (const chunk of plain) {
    if (chunk.length === 0) continue;
    const altered = first ? Uint8Array.from(chunk) : chunk;
    if (first) altered[0] = ~altered[0]! & 0xff;
    first = false;
    hasher.update(altered);
    yield altered;
  }
  const last = new Uint8Array([first ? 0xff : 0]);
  hasher.update(last);
  yield last;
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

function hexOf(hasher: Hasher): string {
  return Buffer.from(hasher.digest() as Uint8Array).toString('hex');
}
