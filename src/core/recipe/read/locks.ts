/** What of an entry is behind a key. */
import { FaultError } from '../../faults';
import { scopeOf, truthy, type Scope } from '../formula/value';
import type { Step } from '../model';
import type { OpenedArchive } from './opened-archive';
import { openEntry } from './entry-bytes';

export interface Locks {
  /** A region of the archive, such as its index, was unlocked to read it. */
  readonly index: boolean;
  /** The bytes of the entry itself are locked. */
  readonly entry: boolean;
}

/** An archive that may have locked entries need not have any: only the steps that are taken count. */
export async function locksOf(archive: OpenedArchive, entry: number): Promise<Locks> {
  const file = scopeOf(archive.facts);
  const index = [...archive.regions.values()].some(
    ({ region, unlocked }) => unlocked && region.through.some((step) => isTaken(step, file)),
  );
  return { index, entry: await isLocked(archive, entry) };
}

async function isLocked(archive: OpenedArchive, entry: number): Promise<boolean> {
  const { entries, recipe } = archive;
  const steps = recipe.entries.stepsOf(entries.method(entry) ?? 0) ?? [];
  if (entries.isDeleted(entry) || steps.every(({ slots }) => slots.length === 0)) return false;
  try {
    const { scope } = await openEntry(archive, entry);
    return steps.some((step) => isTaken(step, scope));
  } catch (error) {
    // What is wrong with it is reported where it is read.
    if (error instanceof FaultError) return false;
    throw error;
  }
}

function isTaken({ slots, when }: Step, scope: Scope): boolean {
  return slots.length > 0 && (when === undefined || truthy(when.evaluate(scope)));
}
