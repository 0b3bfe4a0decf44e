/** Bringing in a mod that someone shared: its changes lie under one's own, and can be turned off. */
import { FaultError, faultOf, sayFault, throwIfStopped, type Fault } from '../../core/faults';
import { kindOf, SafePaths, type ModChange } from '../../core/game';
import { keepBase } from '../changes';
import { ChangeModel, database, ModModel, RunModel } from '../database';
import { findWinner } from '../content';
import { env } from '../env';
import { BESIDE_THE_GAME, isOfTheGame, requireGame, settleNewFiles } from '../games';
import { inputOf, resultOf, startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { ChangeStatus, RunAnswer, RunResult } from '../shapes';
import { blobPath, keepBlob, requireSpace } from '../storage';
import { applyDifference } from './difference';
import { withMod, type OpenMod } from './read-mod';

const MOST_MOD_BYTES = 8 * 2 ** 30;
const MOST_PICTURE_BYTES = 8 << 20;
/** What a difference may be larger than what it makes. */
const DIFFERENCE_BYTES = 1 << 20;
/** A person is asked before more than this is unpacked. */
const ASKED_ABOVE_BYTES = 200 * 1000 * 1000;
/** The ratio of unpacked to packed size that no genuine mod reaches. */
const MOST_RATIO = 400;
/** Below this, how often a file is larger than its mod says nothing. */
const RATIO_FROM_BYTES = 50 * 1000 * 1000;

export async function startBringMod(
  gameId: number,
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<RunAnswer> {
  await requireGame(gameId);
  const { sha256 } = await keepBlob(bytes, { maxBytes: MOST_MOD_BYTES });
  return startRun('bring-mod', { title: `Adding the mod ${name}`, gameId, input: { file: sha256, name } });
}

/**
 * Brings in a mod that a run asked about, for it unpacks to very much.
 *
 * @throws FaultError `not-found` when no run of this game has asked
 */
export async function agreeToMod(gameId: number, runId: number): Promise<RunAnswer> {
  if (!('asks' in (await resultOf('bring-mod', gameId, runId))))
    throw new FaultError({ code: 'not-found', what: 'nothing is asked of you' });
  const input = await inputOf('bring-mod', gameId, runId);
  // It is asked once: the answer takes the place of the question.
  await RunModel.update({ result: {} }, { where: { id: runId } });
  return startRun('bring-mod', { title: `Adding the mod ${input.name}`, gameId, input: { ...input, agreed: true } });
}

/** What one change of a mod comes to here. */
interface Taken {
  readonly blob: string;
  readonly size: number;
  readonly base: string | null;
  readonly status: ChangeStatus;
}

export async function bringModRun({
  gameId,
  input,
  signal,
  progress,
  log,
}: RunContext<'bring-mod'>): Promise<RunResult<'bring-mod'>> {
  const { file, name: fileName, agreed } = input;
  return withMod(file, fileName, async (mod) => {
    const { manifest } = mod;
    const unpacked = await checkSize(mod, fileName);
    if (unpacked > ASKED_ABOVE_BYTES && !agreed) return { asks: unpacked, name: manifest.name };
    const taken: { change: ModChange; taken: Taken }[] = [];
    const leftOut: Fault[] = [];
    for (const [i, change] of manifest.changes.entries()) {
      throwIfStopped(signal);
      progress(i, manifest.changes.length, 'entries');
      try {
        taken.push({ change, taken: await takenOf(gameId, mod, change, signal) });
      } catch (error) {
        throwIfStopped(signal);
        const fault = faultOf(error, change.path);
        leftOut.push(fault);
        log(sayFault(fault));
      }
    }
    if (taken.length === 0)
      throw new FaultError({
        code: 'conflict',
        file: fileName,
        what: 'nothing of it fits this game',
        found: leftOut[0] === undefined ? 'nothing in it' : sayFault(leftOut[0]),
      });
    const picture =
      manifest.picture === undefined ? null : (await mod.keep(manifest.picture, MOST_PICTURE_BYTES)).sha256;
    const id = await database().transaction(async (transaction) => {
      const last = (await ModModel.max('position', { where: { gameId }, transaction })) as number | null;
      const { name, release: version, author, notes, licence, game } = manifest;
      const row = await ModModel.create(
        {
          ...{ gameId, name, version, author, notes, licence, file, picture, leftOut, position: (last ?? 0) + 1 },
          madeFor: [game.name, game.build].filter(Boolean).join(' '),
        },
        { transaction },
      );
      await ChangeModel.bulkCreate(
        taken.map(({ change, taken: { blob, size, base, status } }) => ({
          ...{ gameId, modId: row.id, path: change.path, action: change.action, blob, size, base, status },
          kind: kindOf(change.path),
          fileName: change.path.slice(change.path.lastIndexOf('/') + 1),
          note: change.note,
          matchedBy: { code: 'from-mod', mod: name } as const,
          intoArchive: change.action === 'add' ? change.into : null,
          loop: change.action === 'replace' ? (change.loop ?? null) : null,
        })),
        { transaction },
      );
      return row.id;
    });
    await settleNewFiles(gameId);
    progress(manifest.changes.length, manifest.changes.length, 'entries');
    return { mod: id, name: manifest.name, taken: taken.length, leftOut: leftOut.length };
  });
}

/**
 * Everything is bounded by what the mod itself says of its files: no more than that is ever read of them.
 *
 * @returns bytes it unpacks to
 * @throws FaultError `limit-reached` when it is made to fill the disk, `disk-full` when it would
 */
async function checkSize({ manifest, size }: OpenMod, file: string): Promise<number> {
  const becomes = manifest.changes.flatMap((change) => (change.action === 'remove' ? [] : [change]));
  const sum = (changes: typeof becomes) => changes.reduce((bytes, change) => bytes + change.becomes.size, 0);
  // A difference makes much of little by its nature: it copies from what the game has.
  const whole = sum(becomes.filter((change) => change.file !== undefined));
  if (whole > RATIO_FROM_BYTES && whole > size * MOST_RATIO)
    throw new FaultError({
      code: 'limit-reached',
      file,
      what: 'its files would unpack to far more than a mod holds',
      found: `${whole.toLocaleString('en')} bytes from ${size.toLocaleString('en')}`,
      limit: `${MOST_RATIO} times its size`,
    });
  const unpacked = sum(becomes);
  await requireSpace(env().home, unpacked, {
    what: 'there is not enough room for what it unpacks to',
    hint: 'Free some space: Storage shows what can go.',
  });
  return unpacked;
}

/** A new entry must have a path that a file can have: other changes name what the game has. @throws FaultError */
function checkPath(path: string): void {
  const { renamed } = new SafePaths().clean(path);
  if (renamed !== undefined)
    throw new FaultError({ code: 'not-allowed', entry: path, what: `no entry is made of that name: ${renamed}` });
}

/** @throws FaultError when the change cannot be made here */
async function takenOf(gameId: number, mod: OpenMod, change: ModChange, signal: AbortSignal): Promise<Taken> {
  const { path, action } = change;
  const winner = await findWinner(gameId, path).catch(() => undefined);
  if (action === 'add') {
    checkPath(path);
    const there = change.into === BESIDE_THE_GAME ? await isOfTheGame(gameId, path) : winner !== undefined;
    return { ...(await wholeFile(mod, change, change.file)), base: null, status: there ? 'there' : 'fits' };
  }
  if (winner === undefined)
    throw new FaultError({ code: 'no-such-entry', entry: path, what: 'the game has no such entry' });
  const base = await keepBase(gameId, path);
  const status = base === change.replaces.sha256 ? 'fits' : 'changed';
  if (action === 'remove') return { blob: '', size: 0, base, status };
  if (change.file !== undefined) return { ...(await wholeFile(mod, change, change.file)), base, status };
  if (change.difference === undefined)
    throw new FaultError({ code: 'wrong-kind', entry: path, what: 'neither a file nor a difference is named for it' });
  if (status === 'changed')
    throw new FaultError({
      code: 'conflict',
      entry: path,
      what: 'the difference is made for another build of the game',
      expected: `content ${change.replaces.sha256.slice(0, 12)}…`,
      found: `${base.slice(0, 12)}…`,
    });
  const difference = await mod.keep(change.difference, change.becomes.size + DIFFERENCE_BYTES);
  const made = await applyDifference(base, blobPath(difference.sha256), change.becomes.size, signal);
  return { ...checked(change, made), base, status };
}

async function wholeFile(
  mod: OpenMod,
  change: Exclude<ModChange, { action: 'remove' }>,
  name: string,
): Promise<{ blob: string; size: number }> {
  return checked(change, await mod.keep(name, change.becomes.size));
}

function checked(
  { path, becomes }: Exclude<ModChange, { action: 'remove' }>,
  { sha256, size }: { sha256: string; size: number },
): { blob: string; size: number } {
  if (sha256 === becomes.sha256) return { blob: sha256, size };
  throw new FaultError({
    code: 'checksum-differs',
    entry: path,
    what: 'the file is not the one the mod was made with',
    expected: becomes.sha256,
    found: sha256,
  });
}
