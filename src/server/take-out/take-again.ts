/** Taking out inside another run, as the game has it now. */
import { FaultError } from '../../core/faults';
import type { RunContext } from '../runs/run-context';
import type { TakeOutOrder } from '../shapes';
import { underRoots } from '../storage';
import { goingEntries, type TakeOutInput } from './start';
import { takeOutRun } from './take-out-run';

/** @throws FaultError `conflict` when none of the paths is in the game any more */
export async function takeAgain(context: RunContext, order: TakeOutOrder, paths: readonly string[]): Promise<object> {
  const entries = await goingEntries(context.gameId, 'e.path = any ($2::text[])', [paths]);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'nothing of what is to be taken out is in the game any more' });
  const to = await underRoots(order.to);
  const input = { ...order, to, onlyChanged: true, entries } satisfies TakeOutInput;
  return takeOutRun({ ...context, input });
}
