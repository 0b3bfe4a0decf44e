/** How changes stand to a game that was updated: what still fits, what the game changed too, what has gone. */
import { createHash } from 'node:crypto';
import { faultOf, sayFault, throwIfStopped } from '../../core/faults';
import { readEntry } from '../../core/recipe';
import { ArchiveModel, ChangeModel } from '../database';
import { findWinner } from '../content';
import { BESIDE_THE_GAME, isOfTheGame, withArchive } from '../games';
import type { RunContext } from '../runs/run-context';
import type { ChangeStatus, RunResult } from '../shapes';
import { keepBase } from './base';

/** @returns how many changes stand how */
export async function rebaseRun({ gameId, signal, progress, log }: RunContext<'rebase'>): Promise<RunResult<'rebase'>> {
  const changes = await ChangeModel.findAll({ where: { gameId, undone: false }, order: [['path', 'ASC']] });
  const locked = await ArchiveModel.count({ where: { gameId, state: 'locked' } });
  if (locked > 0) log('Some archives are locked: what is not found may be in them.');
  const sums: Record<ChangeStatus, number> = { fits: 0, changed: 0, gone: 0, there: 0 };
  for (const [i, change] of changes.entries()) {
    throwIfStopped(signal);
    progress(i, changes.length, 'entries');
    try {
      const status = await statusOf(change, signal);
      // What may be in an archive that is still locked is not gone.
      if (status === 'gone' && locked > 0) continue;
      sums[status]++;
      if (status !== 'fits') log(`${change.path}: ${SAYS[status]}`);
      await change.update({ status });
    } catch (error) {
      throwIfStopped(signal);
      // What cannot be read now says nothing of the change: it stays as it was.
      log(sayFault(faultOf(error, change.path)));
    }
  }
  // What goes with another is not listed by itself: that one says it.
  for (const { withId, status } of changes)
    if (withId !== null && status !== 'fits')
      await ChangeModel.update({ status }, { where: { gameId, id: withId, status: 'fits' } });
  progress(changes.length, changes.length, 'entries');
  return { changes: changes.length, ...sums };
}

const SAYS: Readonly<Record<ChangeStatus, string>> = {
  fits: 'still fits',
  changed: 'the game changed it too',
  gone: 'the game no longer has it',
  there: 'the game has one of that name by now',
};

async function statusOf(change: ChangeModel, signal: AbortSignal): Promise<ChangeStatus> {
  const { gameId, path, action, base } = change;
  if (action === 'add' && change.intoArchive === BESIDE_THE_GAME)
    return (await isOfTheGame(gameId, path)) ? 'there' : 'fits';
  const winner = await findWinner(gameId, path).catch(() => undefined);
  if (action === 'add') return winner === undefined ? 'fits' : 'there';
  if (winner === undefined) return 'gone';
  // Made before it was noted what the game had: it is noted now.
  if (base == null) {
    await change.update({ base: await keepBase(gameId, path) });
    return 'fits';
  }
  return (await contentHash(winner, signal)) === base ? 'fits' : 'changed';
}

function contentHash({ archive, n }: { archive: number; n: number }, signal: AbortSignal): Promise<string> {
  return withArchive(archive, async (opened) => {
    const hash = createHash('sha256');
    for await (const chunk of readEntry(opened, n, { signal, verify: false })) hash.update(chunk);
    return hash.digest('hex');
  });
}
