/** Taking out inside another run, as the game has it now. */
import { FaultError } from '../../core/faults';
import { inputOf } from '../runs';
import type { RunSetting } from '../runs/run-context';
import { takeOutOrder, type RoutineStep, type TakeOutOrder } from '../shapes';
import { outgoingEntries } from './start';
import { takeOutRun } from './take-out-run';

/** What a run took out, as a step of a routine. @throws FaultError `not-found` */
export async function stepOfTakeOut(gameId: number, runId: number): Promise<RoutineStep> {
  const { entries, token: _, ...order } = await inputOf('take-out', gameId, runId);
  if (order.to === null)
    throw new FaultError({
      code: 'conflict',
      what: 'a ZIP is downloaded in the browser, and a routine has none',
      hint: 'Take out into a folder, and make that a step.',
    });
  const wanted = { ...takeOutOrder.parse(order), to: order.to };
  return { do: 'take-out', order: wanted, paths: entries.map(({ path }) => path) };
}

/** @throws FaultError `conflict` when none of the paths is in the game any more */
export async function takeAgain(context: RunSetting, order: TakeOutOrder, paths: readonly string[]): Promise<object> {
  const entries = await outgoingEntries(context.gameId, 'e.path = any ($2::text[])', [paths]);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'nothing of what is to be taken out is in the game any more' });
  return takeOutRun({ ...context, input: { ...order, onlyChanged: true, entries } });
}
