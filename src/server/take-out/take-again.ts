/** Taking out inside another run, as the game has it now. */
import { FaultError } from '../../core/faults';
import { RunModel } from '../database';
import type { RunContext } from '../runs/run-context';
import { takeOutOrder, type RoutineStep, type TakeOutOrder } from '../shapes';
import { outgoingEntries, type TakeOutInput } from './start';
import { takeOutRun } from './take-out-run';

/** What a run took out, as a step of a routine. @throws FaultError `not-found` */
export async function stepOfTakeOut(gameId: number, runId: number): Promise<RoutineStep> {
  const run = await RunModel.findOne({ where: { gameId, id: runId, kind: 'take-out' } });
  if (run === null) throw new FaultError({ code: 'not-found', what: 'there is no such run' });
  const { entries, ...order } = run.input as TakeOutInput;
  if (order.to === null)
    throw new FaultError({
      code: 'conflict',
      what: 'a ZIP is downloaded, and nobody is there when a routine makes it',
      hint: 'Take out into a folder, and make that a step.',
    });
  const wanted = { ...takeOutOrder.parse(order), to: order.to };
  return { do: 'take-out', order: wanted, paths: entries.map(({ path }) => path) };
}

/** @throws FaultError `conflict` when none of the paths is in the game any more */
export async function takeAgain(context: RunContext, order: TakeOutOrder, paths: readonly string[]): Promise<object> {
  const entries = await outgoingEntries(context.gameId, 'e.path = any ($2::text[])', [paths]);
  if (entries.length === 0)
    throw new FaultError({ code: 'conflict', what: 'nothing of what is to be taken out is in the game any more' });
  const input = { ...order, onlyChanged: true, entries } satisfies TakeOutInput;
  return takeOutRun({ ...context, input });
}
