/** Looking through a file for the keys of locked archives, on every core. */
import { rm, stat } from 'node:fs/promises';
import { maskKey } from '../../../core/codecs';

import { FaultError, throwIfStopped } from '../../../core/faults';
import { solveXor, type FoundKey } from '../../../core/keysearch';
import { keyProbe, type KeyProbe, type Recipe } from '../../../core/recipe';
import type { KeyOrder } from '../../../workers/pool-thread';
import { ArchiveModel } from '../../database';
import { knownRecipes } from '../../recipes';
import { startRun } from '../../runs/run-service';
import type { RunContext, RunSetting } from '../../runs/run-context';
import type { KeySearchFind, RunResult } from '../../shapes';
import { inThread, threadCount } from '../../threads';
import { openVolumesOf, volumeFiles, withMainFile, type VolumeFile } from '../archive-access';
import { keepKeys } from './key-service';
import { keysFor } from './keyring';

/** One slot of one locked archive. */
interface Target {
  readonly row: ArchiveModel;
  readonly recipe: Recipe;
  readonly slot: string;
  readonly kind: string;
  readonly keys: ReadonlyMap<string, Uint8Array>;
}

/** Found in the file, or derived from what the archive must begin with. */
type AnyKey = Omit<FoundKey, 'written'> & { readonly written: KeySearchFind['written'] };
type Found = AnyKey & { readonly target: Target };

/** What a thread looks through at a time: enough of these for all threads, and for progress to be seen. */
function pieceBytes(size: number): number {
  return Math.min(2 << 20, Math.max(64 << 10, Math.ceil(size / (8 * threadCount()))));
}

/** What is found is kept and tried like a pasted key; the answer shows where it stood, and never the key. */
export async function keySearchRun(context: RunContext<'key-search'>): Promise<RunResult<'key-search'>> {
  const { gameId, log, progress } = context;
  const { input } = context;
  // A search that is resumed after a crash needs it still.
  if (input.temporary) context.afterwards(() => rm(input.haystack, { force: true }));
  const facts = await stat(input.haystack).catch(() => undefined);
  if (facts === undefined)
    throw new FaultError({
      code: 'not-found',
      file: input.name,
      hint: input.temporary ? 'It was uploaded for the search before: choose it again.' : 'Was it moved?',
    });
  const targets = await targetsOf(gameId);
  const found: Found[] = [];
  const waiting = [...targets];
  let done = 0;
  const advance = (bytes: number) => progress((done += bytes), facts.size * targets.length, 'bytes');
  for (let target = waiting.shift(); target !== undefined; target = waiting.shift()) {
    const before = done;
    const keys = await searchFor(target, input.haystack, facts.size, context, advance);
    advance(before + facts.size - done);
    for (const key of keys) {
      found.push({ ...key, target });
      const where = key.written === 'derived' ? '' : ` at 0x${key.at.toString(16)}`;
      log(`${target.row.path}: a key ${WRITTEN[key.written]}${where} fits`);
      // Archives of one game mostly share a key: what it opens need not be looked for again.
      for (const other of [...waiting]) {
        if (other.kind !== target.kind || !(await fitsToo(other, key.key))) continue;
        waiting.splice(waiting.indexOf(other), 1);
        advance(facts.size);
      }
    }
    if (keys.length === 0) log(`${target.row.path}: no key for “${target.slot}” was found in ${input.name}`);
  }
  const ids = await keepKeys(
    gameId,
    found.map(({ key, at, written, target: { kind, row } }) => ({
      kind,
      bytes: key,
      name: written === 'derived' ? `derived from ${row.path}` : `0x${at.toString(16)} of ${input.name}`,
    })),
  );
  if (ids.length > 0)
    await startRun('unlock', { title: 'Unlocking with what was found', gameId, input: { keys: ids } });
  const finds: KeySearchFind[] = found.map(({ key, at, written, target: { row, slot } }) => ({
    mask: maskKey(key),
    at,
    written,
    archive: row.path,
    slot,
  }));
  return { file: input.name, bytes: facts.size, searched: targets.map(({ row }) => row.path), found: finds };
}

const WRITTEN: Readonly<Record<KeySearchFind['written'], string>> = {
  raw: 'as it is',
  hex: 'written in hex',
  base64: 'written in base64',
  schedule: 'expanded as AES keeps it',
  text: 'as text',
  derived: 'derived from its expected bytes',
};

async function targetsOf(gameId: number): Promise<Target[]> {
  const recipes = await knownRecipes(gameId);
  const rows = await ArchiveModel.findAll({ where: { gameId, state: 'locked' }, order: [['position', 'ASC']] });
  const targets: Target[] = [];
  for (const row of rows) {
    const recipe = recipes.find((one) => one.id === row.recipe);
    if (recipe === undefined) continue;
    const [ring] = await keysFor(gameId, recipe, row.keys);
    for (const [slot, kind] of recipe.needs) {
      const keys = new Map([...ring!.keys].filter(([other]) => other !== slot));
      targets.push({ row, recipe, slot, kind, keys });
    }
  }
  return targets;
}

/** The key of a repeating XOR over bytes that must be there: nothing has to be searched for it. */
async function derivedXor(probe: KeyProbe): Promise<Uint8Array | undefined> {
  if (probe.known === undefined) return undefined;
  const solved = solveXor(probe.known.stored, probe.known.plain, 0);
  if (solved === undefined) return undefined;
  const length = probe.bytes === 0 ? solved.key.length : probe.bytes;
  const key = Uint8Array.from({ length }, (_, i) => solved.key[i % solved.key.length]!);
  return (await probe.fits(key)) ? key : undefined;
}

/** The first key that fits is enough: the rest of the file is then not looked through. */
async function searchFor(
  target: Target,
  haystack: string,
  size: number,
  { signal, log }: RunSetting,
  progress: (bytes: number) => void,
): Promise<AnyKey[]> {
  const { row, recipe, slot, keys } = target;
  const probe = await withProbe(target, async (one) => ({
    bytes: one.bytes,
    how: one.how,
    derived: await derivedXor(one),
  }));
  if (probe === undefined) {
    log(`${row.path}: it cannot be checked whether a key for “${slot}” fits`);
    progress(size);
    return [];
  }
  if (probe.derived !== undefined) return [{ key: probe.derived, at: 0, written: 'derived' }];
  log(
    `${row.path}: looking for ${probe.bytes === 0 ? 'a password' : `${probe.bytes} bytes`} for “${slot}”; ${probe.how}`,
  );
  const width = pieceBytes(size);
  const starts = Array.from({ length: Math.ceil(size / width) }, (_, i) => i * width);
  const found: FoundKey[] = [];
  const search = (files: readonly VolumeFile[]) => {
    const next = async (): Promise<void> => {
      for (let from = starts.shift(); from !== undefined && found.length === 0; from = starts.shift()) {
        throwIfStopped(signal);
        const to = Math.min(size, from + width);
        const order: KeyOrder = { recipe: recipe.text, files, slot, keys, haystack, from, to };
        found.push(...(await inThread<KeyOrder, FoundKey[]>('findKeys', order, signal)));
        progress(to - from);
      }
    };
    return Promise.all(Array.from({ length: threadCount() }, next));
  };
  if (row.parentId === null) await search(await volumeFiles(row, recipe));
  else await withMainFile(row, (path) => search([{ path, name: row.path }]));
  return found.sort((a, b) => a.at - b.at).slice(0, 1);
}

async function fitsToo(target: Target, key: Uint8Array): Promise<boolean> {
  return (await withProbe(target, (probe) => probe.fits(key)).catch(() => false)) ?? false;
}

async function withProbe<T>(
  { row, recipe, slot, keys }: Target,
  work: (probe: KeyProbe) => Promise<T>,
): Promise<T | undefined> {
  const sources = await openVolumesOf(row, recipe);
  try {
    const probe = await keyProbe(recipe, sources.files, slot, keys);
    return probe === undefined ? undefined : await work(probe);
  } finally {
    await sources.close();
  }
}
