/** Starting to take out: what is in the tray now, or again what a run before took. */
import { QueryTypes } from 'sequelize';
import type { z } from 'zod';
import { newToken } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { parseSplit } from '../../core/forms/picture';
import { database } from '../database';
import { env } from '../env';
import { keepSplit, requireGame } from '../games';
import { inputOf, startRun } from '../runs';
import { takeOutOrder, type OutgoingEntry, type RunAnswer, type TakeOutOrder } from '../shapes';
import { requireSpace } from '../storage';
import { targetFolder } from './target';

/** @throws FaultError when the tray is empty, there is no room, or the folder is outside of the roots */
export async function startTakeOut(gameId: number, wanted: z.input<typeof takeOutOrder>): Promise<RunAnswer> {
  const order = takeOutOrder.parse(wanted);
  const entries = await trayEntries(gameId);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'the tray is empty', hint: 'Add entries to it in Find.' });
  if (order.split !== undefined) {
    parseSplit(order.split);
    await keepSplit(gameId, order.split);
  }
  return start(gameId, order, entries);
}

/**
 * Takes out again what a run took, by path, as the game has it now; what has not changed since is skipped.
 *
 * @throws FaultError `not-found`, or `conflict` when none of it is there any more
 */
export async function repeatTakeOut(gameId: number, runId: number): Promise<RunAnswer> {
  const { entries: before, token: _, ...rest } = await inputOf('take-out', gameId, runId);
  const order = takeOutOrder.parse({ ...rest, decisions: {}, onlyChanged: true });
  const paths = before.map(({ path }) => path);
  const entries = await outgoingEntries(gameId, 'e.path = any ($2::text[])', [paths]);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'nothing of what was taken then is in the game any more' });
  return start(gameId, order, entries);
}

async function start(gameId: number, order: TakeOutOrder, entries: readonly OutgoingEntry[]): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const to = order.to === null ? null : await targetFolder(order.to);
  const needed = entries.reduce((sum, entry) => sum + entry.size, 0);
  await requireSpace(to ?? env().home, needed, {
    what: 'there is not enough room',
    hint: 'Free some space or choose another folder.',
  });
  return startRun('take-out', {
    title: `Taking out ${entries.length === 1 ? '1 entry' : `${entries.length.toLocaleString('en')} entries`} of ${game.name}${to === null ? ', as one ZIP' : ''}`,
    gameId,
    input: { ...order, to, entries, token: newToken() },
  });
}

/** What is in the tray and in the game. */
export const trayEntries = (gameId: number): Promise<OutgoingEntry[]> =>
  outgoingEntries(gameId, 'e.path in (select path from tray_items where game_id = $1)', []);

/** By archive and by where their bytes lie, so that they are read in one go. */
export function outgoingEntries(gameId: number, which: string, bind: readonly unknown[]): Promise<OutgoingEntry[]> {
  return database().query<OutgoingEntry>(
    `select e.archive_id as archive, e.n, e.path, e.kind, e.size::float8 as size,
            (select l.text from labels l where l.game_id = e.game_id and l.path = e.path) as label,
            case when e.tag <> '' then e.tag else a.modified || ':' || e.at end || ':' || e.size as mark
     from entries e join archives a on a.id = e.archive_id
     where e.game_id = $1 and e.wins and ${which} order by e.archive_id, e.at`,
    { bind: [gameId, ...bind], type: QueryTypes.SELECT },
  );
}
