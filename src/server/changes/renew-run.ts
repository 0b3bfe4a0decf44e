/** After an update, in one run: see how the changes stand, fit those again that the game changed too, and build as before. */
import { faultOf, FaultError, sayFault, throwIfStopped } from '../../core/faults';
import { BuildModel, ChangeModel } from '../database';
import { requireGame } from '../games';
import { startRun } from '../runs';
import type { RunContext, RunWork } from '../runs/run-context';
import type { RunAnswer, RunResult } from '../shapes';
import { rebaseRun } from './rebase-run';
import { takeChange } from './take-change';

export async function startRenew(gameId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  return startRun('renew', { title: `Fitting your changes to ${game.name} as it is now`, gameId, input: {} });
}

/** @param build builds what came of it, as builds do */
export async function renewRun(context: RunContext<'renew'>, build: RunWork<'build'>): Promise<RunResult<'renew'>> {
  const { gameId, signal, log } = context;
  await rebaseRun({ ...context, input: {} });
  const changed = await ChangeModel.findAll({
    where: { gameId, undone: false, status: 'changed', withId: null, modId: null, action: 'replace' },
  });
  let fitted = 0;
  for (const change of changed) {
    throwIfStopped(signal);
    const { path, given, fileName, fitOptions, matchedBy } = change;
    if (given == null) {
      log(`${path}: the file this change came from is not kept. Bring it again, or keep yours.`);
      continue;
    }
    try {
      await takeChange(gameId, { path, fileName, kept: given, matchedBy, fitOptions, signal });
      fitted++;
    } catch (error) {
      throwIfStopped(signal);
      log(sayFault(faultOf(error, path)));
    }
  }
  // Of a mod nothing can be kept or brought again: it holds as it is, or is turned off.
  const left = await ChangeModel.findAll({
    where: { gameId, undone: false, modId: null, withId: null, status: ['changed', 'gone', 'there'] },
  });
  if (left.length > 0)
    throw new FaultError({
      code: 'conflict',
      entry: left[0]!.path,
      what: `${left.length} ${left.length === 1 ? 'change does' : 'changes do'} not fit the game as it is now`,
      hint: 'Look at them on Change: keep yours, undo it, or bring another file.',
    });
  const last = await BuildModel.findOne({
    where: { gameId },
    order: [['number', 'DESC']],
    attributes: ['how', 'archives'],
  });
  const built = await build({ ...context, input: { how: last?.how ?? 'patch', archives: last?.archives ?? {} } });
  return { fitted, ...built };
}
