import { createHash } from 'node:crypto';
import { keyCandidates, keyLength, maskKey } from '../../core/codecs';
import { FaultError } from '../../core/faults';
import type { Recipe } from '../../core/recipe';
import { ArchiveModel, KeyModel } from '../database';
import { startRun } from '../runs';
import type { RunAnswer } from '../shapes';
import { openSealed, seal } from '../storage';

/** All ways to fill the slots of a recipe with the keys of a game; one map for each. */
export async function keysFor(gameId: number, recipe: Recipe): Promise<ReadonlyMap<string, Uint8Array>[]> {
  const keys = await KeyModel.findAll({ where: { gameId }, order: [['id', 'DESC']] });
  let rings: Map<string, Uint8Array>[] = [new Map()];
  for (const [slot, kind] of recipe.needs) {
    const fitting = keys.filter((key) => key.kind === kind).map((key) => openSealed(key.sealed));
    if (fitting.length === 0) return [new Map()];
    rings = rings.flatMap((ring) => fitting.map((key) => new Map([...ring, [slot, key]])));
  }
  return rings;
}

/** All keys of a game that may fill each slot. */
export async function keysOfKinds(
  gameId: number,
  needs: Readonly<Record<string, string>>,
): Promise<Record<string, Uint8Array[]>> {
  const keys = await KeyModel.findAll({ where: { gameId }, order: [['id', 'DESC']] });
  return Object.fromEntries(
    Object.entries(needs).map(([slot, kind]) => [
      slot,
      keys.filter((key) => key.kind === kind).map((key) => openSealed(key.sealed)),
    ]),
  );
}

/**
 * Takes a pasted key in and starts a run that tries it on every locked archive. A key that opens nothing is not kept.
 *
 * @throws FaultError `key-wrong` when no reading of the text has a length that is asked for
 */
export async function addKey(gameId: number, text: string): Promise<RunAnswer> {
  const locked = await ArchiveModel.findAll({ where: { gameId, state: 'locked' } });
  if (locked.length === 0)
    throw new FaultError({
      code: 'conflict',
      what: 'no archive of this game is locked',
      hint: 'Scan the folder first.',
    });
  const kinds = [...new Set(locked.flatMap((archive) => Object.values(archive.slots)))];
  const candidates = keyCandidates(text);
  const fitting = kinds.flatMap((kind) =>
    candidates
      .filter((bytes) => keyLength(kind) === 0 || bytes.length === keyLength(kind))
      .map((bytes) => ({ kind, bytes })),
  );
  if (fitting.length === 0) {
    const [first] = candidates;
    const lengths = kinds.map((kind) => ({ kind, bytes: keyLength(kind) }));
    const longest = Math.max(...lengths.map(({ bytes }) => bytes));
    throw new FaultError({
      code: 'key-wrong',
      what: `no locked archive asks for a key of this length: ${lengths.map(({ kind, bytes }) => `${kind} has ${bytes} bytes, that is ${bytes * 2} hex digits`).join('; ')}`,
      found: first === undefined ? 'nothing' : `${first.length} bytes`,
      hint:
        first !== undefined && first.length < longest ? 'Was it copied whole?' : 'Is there more than the key in it?',
    });
  }
  const ids: number[] = [];
  for (const { kind, bytes } of fitting) {
    const fingerprint = createHash('sha256').update(kind).update(bytes).digest('hex');
    const known = await KeyModel.findOne({ where: { gameId, fingerprint } });
    const key =
      known ?? (await KeyModel.create({ gameId, kind, mask: maskKey(bytes), sealed: seal(bytes), fingerprint }));
    ids.push(key.id);
  }
  return startRun({ kind: 'unlock', title: 'Trying a key', gameId, input: { keys: ids } });
}

/** Forgets a key; what it opened stays listed, and is locked again at the next scan. */
export async function removeKey(gameId: number, id: number): Promise<void> {
  await KeyModel.destroy({ where: { gameId, id } });
}
