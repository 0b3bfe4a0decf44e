/** The proof of a recipe on a file: five parts, each with its first failure. */
import { readChunks, type ByteSource } from '../../bytes';
import { FaultError, hexBytes, throwIfStopped, type Fault } from '../../faults';
import type { OpenedArchive } from '../read/opened-archive';
import { explainedBytes } from '../read/coverage';
import { fieldAt, regionAt } from '../read/explain';
import { NO_EDITS } from '../write/edits/edits';
import { planRebuild } from '../write/plan';
import { proveChanged } from './changed-entries';
import { contentFaults } from './content-checks';
import { editsHold, proveEdits, proveTogether } from './edit-proof';
import type { Proof, ProveOptions } from './proof';
import { checkFormulas, type FormulaCheck } from './formula-check';
import { madeFaults } from './made-faults';
import { readingFaults } from './reading-checks';

/** An archive, with the comparison of its fields that opening it has made, where it was opened with one. */
export type ProvableArchive = OpenedArchive & { readonly formulas?: FormulaCheck };

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
export async function prove(archive: ProvableArchive, options: ProveOptions): Promise<Proof> {
  const { signal } = options;
  const steps = archive.entries.count * 2;
  const bytes = await proveBytes(archive, signal);
  const check =
    archive.formulas?.isWhole === true
      ? archive.formulas
      : await checkFormulas(archive, {
          deep: true,
          signal,
          progress: (done) => options.progress?.(done, steps),
        });
  const strict = [
    ...readingFaults(archive, signal),
    ...(await madeFaults(archive, signal)),
    ...(await contentFaults(archive, signal)),
  ];
  const identical = await proveIdentical(archive, options);
  const progress = (done: number) => options.progress?.(archive.entries.count + done, steps);
  const both = await proveTogether(archive, options, progress);
  const changed = both?.changed ?? (await proveChanged(archive, options, progress));
  const edits = both?.edits ?? (await proveEdits(archive, options));
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
