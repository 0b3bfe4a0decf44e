/** What each way to build would write, in bytes and files, before one is chosen. */
import { createHash } from 'node:crypto';
import { CancelledError, faultOf } from '../../core/faults';
import type { GameModel } from '../database';
import { profileOf, requireGame, memoizeByVersion } from '../games';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import {
  HOWS,
  type BuildWays,
  type BuiltChange,
  type How,
  type RunAnswer,
  type WayAnswer,
  type WayRefusal,
  type WaysAnswer,
  type RunResult,
} from '../shapes';
import { buildGroups, changesNow } from './build-run';
import { groupChanges } from './groups';

export async function startEstimate(gameId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  return startRun('estimate', { title: `Estimating builds of ${game.name}`, gameId, input: {} });
}

export async function estimateRun({
  gameId,
  signal,
  progress,
  log,
}: RunContext<'estimate'>): Promise<RunResult<'estimate'>> {
  const game = await requireGame(gameId);
  const changes = await changesNow(gameId);
  const mark = markOf(game, changes);
  const { looseFolder } = profileOf(game);
  const archives = new Set<string>();
  const ways: WayAnswer[] = [];
  for (const [i, how] of HOWS.entries()) {
    progress(i, HOWS.length, 'archives');
    ways.push(await estimate(how, changes));
  }
  progress(HOWS.length, HOWS.length, 'archives');
  const answer: WaysAnswer = { ways, archives: [...archives].sort() };
  await game.update({ ways: { mark, ...answer } });
  return answer;

  async function estimate(how: How, changed: readonly BuiltChange[]): Promise<WayAnswer> {
    const refusals: WayRefusal[] = [];
    try {
      const all: BuildWays = { how, archives: {} };
      const groups = await groupChanges(gameId, changed, all);
      for (const { file, isNew } of groups.all) if (!isNew) archives.add(file);
      const setting = { signal, log, progress: () => {}, dry: true };
      const { files } = await buildGroups(groups, all, looseFolder, setting, ({ file }, error) => {
        const fault = faultOf(error);
        refusals.push({ archive: file, entry: fault.entry ?? null, fault });
      });
      const bytes = files.reduce((sum, { size }) => sum + size, 0);
      return { how, bytes, files: files.map(({ name }) => name), refused: null, refusals };
    } catch (error) {
      if (signal.aborted) throw new CancelledError();
      return { how, bytes: 0, files: [], refused: faultOf(error), refusals };
    }
  }
}

/** What was worked out, as long as it was for the changes and the game there are now; `mark` distinguishes these from others. */
export async function waysOf(game: GameModel): Promise<{ mark: string; ways: WaysAnswer | null }> {
  const kept = game.ways ?? null;
  const depends = `${JSON.stringify(game.catalogue)} ${profileOf(game).looseFolder}`;
  const mark = await memoizeByVersion(game.id, `ways ${depends}`, async () => markOf(game, await changesNow(game.id)));
  return { mark, ways: kept?.mark === mark ? { ways: kept.ways, archives: kept.archives } : null };
}

function markOf(game: GameModel, changes: readonly BuiltChange[]): string {
  return createHash('sha256')
    .update(JSON.stringify([game.catalogue, profileOf(game).looseFolder, changes]))
    .digest('hex');
}
