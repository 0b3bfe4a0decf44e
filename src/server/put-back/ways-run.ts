/** What each way to build would write, in bytes and files, before one is chosen. */
import { createHash } from 'node:crypto';
import { CancelledError, faultOf, sayFault } from '../../core/faults';
import type { GameModel } from '../database';
import { profileOf, requireGame, whileUnchanged } from '../games';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import { HOWS, type BuiltChange, type How, type RunAnswer, type WayAnswer } from '../shapes';
import { buildGroups, changesNow } from './build-run';
import { groupChanges } from './groups';

export async function startWays(gameId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  return startRun({ kind: 'weigh', title: `What each way would write of ${game.name}`, gameId });
}

export async function waysRun({ gameId, signal, progress, log }: RunContext): Promise<object> {
  const game = await requireGame(gameId);
  const changes = await changesNow(gameId);
  const mark = markOf(game, changes);
  const { looseFolder } = profileOf(game);
  const ways: WayAnswer[] = [];
  for (const [i, how] of HOWS.entries()) {
    progress(i, HOWS.length, 'archives');
    ways.push(await weigh(how, changes));
  }
  progress(HOWS.length, HOWS.length, 'archives');
  await game.update({ ways: { mark, ways } });
  return { ways };

  async function weigh(how: How, changed: readonly BuiltChange[]): Promise<WayAnswer> {
    try {
      const groups = await groupChanges(gameId, changed, how);
      const { files } = await buildGroups(groups, how, looseFolder, { signal, log, progress: () => {}, dry: true });
      const bytes = files.reduce((sum, { size }) => sum + size, 0);
      return { how, bytes, files: files.map(({ name }) => name), refused: null };
    } catch (error) {
      if (signal.aborted) throw new CancelledError();
      return { how, bytes: 0, files: [], refused: sayFault(faultOf(error)) };
    }
  }
}

/** What was worked out, as long as it was for the changes and the game there are now; `mark` tells these from others. */
export async function waysOf(game: GameModel): Promise<{ mark: string; ways: readonly WayAnswer[] | null }> {
  const kept = game.ways ?? null;
  const depends = `${JSON.stringify(game.catalogue)} ${profileOf(game).looseFolder}`;
  const mark = await whileUnchanged(game.id, `ways ${depends}`, async () => markOf(game, await changesNow(game.id)));
  return { mark, ways: kept?.mark === mark ? kept.ways : null };
}

function markOf(game: GameModel, changes: readonly BuiltChange[]): string {
  return createHash('sha256')
    .update(JSON.stringify([game.catalogue, profileOf(game).looseFolder, changes]))
    .digest('hex');
}
