/** Trying new keys on every locked archive of a game. */
import { faultOf, sayFault, throwIfStopped, type Fault } from '../../../core/faults';
import { ArchiveModel, GameModel, KeyModel } from '../../database';
import { knownRecipes } from '../../recipes';
import type { RunContext } from '../../runs/run-context';
import type { RunResult } from '../../shapes';
import { settleWinners } from '../entry-index';
import { settleOrder } from '../load-order';
import { followUp } from './follow-up';
import { indexArchive } from './index-archive';
import { openNestedIn } from './nested';

/** A key that opens nothing is forgotten again. */
export async function unlockRun({
  gameId,
  input,
  signal,
  progress,
  log,
}: RunContext<'unlock'>): Promise<RunResult<'unlock'>> {
  const ids = input.keys;
  const recipes = await knownRecipes(gameId);
  const kinds = new Set((await KeyModel.findAll({ where: { gameId, id: ids } })).map((key) => key.kind));
  const opened: string[] = [];
  const refused: { path: string; fault: Fault }[] = [];
  const tried = new Set<number>();
  let hashed = false;
  // What is opened may hold archives that are locked too.
  for (;;) {
    const all = await ArchiveModel.findAll({ where: { gameId, state: 'locked' }, order: [['position', 'ASC']] });
    // What asks for keys of other kinds cannot be opened by these.
    const row = all.find(({ id, slots }) => !tried.has(id) && Object.values(slots).some((kind) => kinds.has(kind)));
    if (row === undefined) break;
    throwIfStopped(signal);
    tried.add(row.id);
    progress(opened.length + refused.length, Math.max(all.length, tried.size), 'archives');
    const recipe = recipes.find((one) => one.id === row.recipe);
    if (recipe === undefined) continue;
    try {
      await indexArchive({ row, recipe, signal, log }, (archive) =>
        openNestedIn(row, archive, { recipes, signal, log }),
      );
      opened.push(row.path);
      hashed ||= row.hashed;
    } catch (error) {
      if (signal.aborted) throw error;
      const fault = faultOf(error, row.path);
      refused.push({ path: row.path, fault });
      log(sayFault(fault));
      const stillLocked = fault.code === 'key-missing' || fault.code === 'key-wrong';
      await row.update({ state: stillLocked ? 'locked' : 'damaged', fault });
    }
  }
  const used = new Set((await ArchiveModel.findAll({ where: { gameId } })).flatMap((row) => Object.values(row.keys)));
  const idle = ids.filter((id) => !used.has(id));
  await KeyModel.destroy({ where: { gameId, id: idle } });
  if (opened.length === 0) log('The key opened nothing and was not kept.');
  else {
    await settleOrder(gameId);
    await settleWinners(gameId);
    await followUp((await GameModel.findByPk(gameId))!, { hashed, changed: true });
  }
  return { opened, refused };
}
