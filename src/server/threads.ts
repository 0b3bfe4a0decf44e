/** Threads of the worker process, for work that wants every core. */
import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import { CancelledError } from '../core/faults';
import { onePerProcess } from './one-per-process';
import { programFile } from './programs';

const MAX_THREAD_MB = 384;

export function threadCount(): number {
  return availableParallelism();
}

function pool(): Piscina {
  return onePerProcess(
    'threads',
    () =>
      new Piscina({
        filename: programFile('pool-thread'),
        // The one a thread loads at once: without it, a default export would be looked for.
        name: 'searchNames',
        maxThreads: threadCount(),
        minThreads: 0,
        idleTimeout: 10_000,
        resourceLimits: { maxOldGenerationSizeMb: MAX_THREAD_MB },
      }),
  );
}

/**
 * Runs a function of a thread's module, by its name. A thread that is stopped is ended at once.
 *
 * @throws CancelledError when the signal says so
 */
export async function inThread<Order extends object, Result>(
  name: string,
  order: Order,
  signal: AbortSignal,
  module: 'pool-thread' | 'mesh-thread' | 'font-thread' = 'pool-thread',
): Promise<Result> {
  try {
    return (await pool().run(order, { name, signal, filename: programFile(module) })) as Result;
  } catch (error) {
    throw signal.aborted ? new CancelledError() : error;
  }
}
