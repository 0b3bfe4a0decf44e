/** The proof of a recipe on a file: four numbers, each with its first failure. */
import { collect, readChunks, type ByteSource, type Scratch } from '../bytes';
import { createHasher } from '../codecs';
import { FaultError, hexBytes, throwIfStopped, type Fault } from '../faults';
import { openArchive, type Archive } from './archive';
import { explainedBytes } from './coverage';
import { NO_EDITS } from './edits';
import { readEntry } from './entry-bytes';
import { fieldAt, regionAt } from './explain';
import { checkFormulas } from './formula-check';
import { planBytes, planRebuild } from './rebuild';

export interface Proof {
  /** Bytes of the file that the recipe explains. */
  readonly bytes: { readonly explained: number; readonly total: number; readonly first?: Fault };
  /** Computed fields that agree with their formula, checksums over every entry's bytes among them. */
  readonly formulas: { readonly agree: number; readonly total: number; readonly first?: Fault };
  /** Rebuilt without changes: identical or not. */
  readonly identical: { readonly same: boolean; readonly first?: Fault };
  /**
   * Rebuilt with entries changed and read again. All entries are changed while their plain bytes stay below a limit;
   * in larger archives evenly spread ones are.
   */
  readonly changed: { readonly equal: number; readonly tested: number; readonly total: number; readonly first?: Fault };
}

export interface ProveOptions {
  readonly scratch: Scratch;
  readonly signal?: AbortSignal | undefined;
  /** Plain bytes of entries that are changed for the fourth number. Default 1 GiB. */
  readonly maxChangedBytes?: number;
  /** Entries done of `total`, over both passes. */
  readonly progress?: (done: number, total: number) => void;
}

const DEFAULT_MAX_CHANGED_BYTES = 1 << 30;

/** True when nothing is left to be desired. */
export function isProven(proof: Proof): boolean {
  return (
    proof.bytes.explained === proof.bytes.total &&
    proof.formulas.agree === proof.formulas.total &&
    proof.identical.same &&
    proof.changed.equal === proof.changed.tested
  );
}

/**
 * Proves the recipe of an opened archive on its file.
 *
 * @throws CancelledError when stopped; faults of the file are part of the proof
 */
export async function prove(archive: Archive, options: ProveOptions): Promise<Proof> {
  const { signal } = options;
  const steps = archive.entries.count * 2;
  const bytes = await proveBytes(archive, signal);
  const check = await checkFormulas(archive, {
    deep: true,
    signal,
    progress: (done) => options.progress?.(done, steps),
  });
  const identical = await proveIdentical(archive, options);
  const changed = await proveChanged(archive, options, (done) =>
    options.progress?.(archive.entries.count + done, steps),
  );
  return {
    bytes,
    formulas: { agree: check.agree, total: check.total, ...first(check.faults[0]) },
    identical,
    changed,
  };
}

function first(fault: Fault | undefined): { first?: Fault } {
  return fault === undefined ? {} : { first: fault };
}

async function proveBytes(archive: Archive, signal: AbortSignal | undefined): Promise<Proof['bytes']> {
  const { source, recipe } = archive;
  const ranges = await explainedBytes(archive, signal);
  const [hole] = ranges.missing(source.size);
  if (hole === undefined) return { explained: source.size, total: source.size };
  const found = hexBytes(await source.read(hole.at, Math.min(hole.length, 16)), 16);
  return {
    explained: ranges.size(),
    total: source.size,
    first: {
      code: 'not-reproduced',
      what: `${hole.length.toLocaleString('en')} bytes that nothing explains`,
      file: source.name,
      recipe: recipe.id,
      offset: hole.at,
      found,
      hint: 'They are kept as they are.',
    },
  };
}

async function proveIdentical(archive: Archive, { scratch, signal }: ProveOptions): Promise<Proof['identical']> {
  try {
    const plan = await planRebuild(archive, NO_EDITS, { layout: 'keep', scratch, signal });
    for (const piece of plan.pieces) {
      // Bytes copied to where they came from cannot differ.
      if (piece.kind === 'copied' && piece.at === piece.from && piece.source === archive.source) continue;
      const difference = await firstDifference(archive, piece.at, { ...piece });
      if (difference !== undefined) return { same: false, first: difference };
    }
    if (plan.size === archive.source.size) return { same: true };
    return {
      same: false,
      first: {
        code: 'not-reproduced',
        file: archive.source.name,
        recipe: archive.recipe.id,
        offset: Math.min(plan.size, archive.source.size),
        expected: `${archive.source.size.toLocaleString('en')} bytes`,
        found: `${plan.size.toLocaleString('en')} bytes`,
      },
    };
  } catch (error) {
    if (error instanceof FaultError && error.fault.code !== 'stopped') return { same: false, first: error.fault };
    throw error;
  }
}

async function firstDifference(
  archive: Archive,
  at: number,
  piece: { source: ByteSource; from: number; length: number },
): Promise<Fault | undefined> {
  const { source, recipe } = archive;
  const length = Math.min(piece.length, source.size - at);
  let done = 0;
  for await (const made of readChunks(piece.source, piece.from, length)) {
    const original = await source.read(at + done, made.length);
    if (Buffer.compare(made, original) !== 0) {
      const index = made.findIndex((byte, i) => byte !== original[i]);
      const offset = at + done + index;
      const field = fieldAt(archive, offset);
      const region = regionAt(archive, offset);
      return {
        code: 'not-reproduced',
        file: source.name,
        recipe: recipe.id,
        offset,
        ...(region === undefined ? {} : { region }),
        ...(field === undefined ? {} : { field: field.field, line: field.line }),
        expected: hexBytes(original.subarray(index, index + 8)),
        found: hexBytes(made.subarray(index, index + 8)),
      };
    }
    done += made.length;
  }
  return undefined;
}

async function proveChanged(
  archive: Archive,
  options: ProveOptions,
  progress: (done: number) => void,
): Promise<Proof['changed']> {
  const { scratch, signal } = options;
  const { entries } = archive;
  const chosen = chooseEntries(archive, options.maxChangedBytes ?? DEFAULT_MAX_CHANGED_BYTES);
  const replace = new Map<number, ByteSource>();
  const wanted = new Map<number, string>();
  const total = entries.count;
  const tested = chosen.length;
  try {
    for (const [i, entry] of chosen.entries()) {
      throwIfStopped(signal);
      const plain = await collect(readEntry(archive, entry, { signal, verify: false }));
      const altered = alter(plain);
      wanted.set(entry, sha256(altered));
      replace.set(entry, await scratch.keep([altered], entries.path(entry)));
      progress(Math.floor(((i + 1) / tested / 2) * total));
    }
    const plan = await planRebuild(archive, { ...NO_EDITS, replace }, { layout: 'keep', scratch, signal });
    const rebuilt = await scratch.keep(planBytes(plan, { signal }), archive.source.name);
    const again = await openArchive(archive.recipe, rebuilt, { keys: archive.keys, limits: archive.limits });
    const check = await checkFormulas(again, { deep: true, signal });
    if (check.agree !== check.total) return { equal: 0, tested, total, ...first(check.faults[0]) };
    let equal = 0;
    let failure: Fault | undefined;
    for (const [i, entry] of chosen.entries()) {
      const found = sha256(await collect(readEntry(again, entry, { signal })));
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

/** All entries, or evenly spread ones whose plain bytes fit together. */
function chooseEntries({ entries }: Archive, maxBytes: number): number[] {
  const all = Array.from({ length: entries.count }, (_, i) => i);
  const sizeOf = (entry: number) => (Number.isNaN(entries.size(entry)) ? entries.stored(entry) : entries.size(entry));
  const bytes = all.reduce((sum, entry) => sum + sizeOf(entry), 0);
  if (bytes <= maxBytes) return all;
  const step = Math.ceil(bytes / maxBytes);
  let left = maxBytes;
  return all.filter((entry) => entry % step === 0 && (left -= sizeOf(entry)) >= 0);
}

/** Other bytes of another length: the first byte inverted and one more at the end. */
function alter(plain: Uint8Array): Uint8Array {
  const altered = new Uint8Array(plain.length + 1);
  altered.set(plain);
  altered[0] = ~altered[0]! & 0xff;
  return altered;
}

function sha256(bytes: Uint8Array): string {
  const hasher = createHasher('sha256')!;
  hasher.update(bytes);
  return Buffer.from(hasher.digest() as Uint8Array).toString('hex');
}
