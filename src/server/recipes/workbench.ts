/** The workbench's work on files, done in a thread that can be ended and cannot take all memory. */
import type { Worker as WorkerThread } from 'node:worker_threads';
import { FaultError, faultOf, sayFault } from '../../core/faults';
import { compileRecipe } from '../../core/recipe';
import { programFile } from '../programs';
import type { CheckAnswer, HintsAnswer, TryAnswer } from '../shapes';
import type { HintOrder, TryOrder } from '../../workers/recipe-thread';

/** How long a try may take. */
const MAX_TRY_MS = 30_000;
const MAX_THREAD_MB = 384;
const CELLS = 160;

/** Compiles a text and says what is wrong with it, at its line. */
export function checkRecipe(text: string): CheckAnswer {
  try {
    compileRecipe(text);
    return { fault: null };
  } catch (error) {
    const fault = faultOf(error);
    return { fault: { code: fault.code, sentence: sayFault(fault), line: fault.line ?? 1, at: null } };
  }
}

/** Tries a recipe on a file: what it reads, the fields with their bytes, the four numbers. */
export async function tryRecipe(order: Omit<TryOrder, 'task'>, signal?: AbortSignal): Promise<TryAnswer> {
  return (await inThread({ task: 'try', ...order }, signal)) as TryAnswer;
}

/** What an unknown file gives away. */
export async function hintsFor(file: string, signal?: AbortSignal): Promise<HintsAnswer> {
  return (await inThread({ task: 'hints', file, cells: CELLS }, signal)) as HintsAnswer;
}

function inThread(order: TryOrder | HintOrder, signal?: AbortSignal): Promise<object> {
  return new Promise((resolve, reject) => {
    // The bundler takes over every Worker it sees, and cannot run this file: Node's own is asked for at run time.
    const { Worker } = process.getBuiltinModule('node:worker_threads');
    const worker: WorkerThread = new Worker(programFile('recipe-thread'), {
      workerData: order,
      resourceLimits: { maxOldGenerationSizeMb: MAX_THREAD_MB },
    });
    const timer = setTimeout(() => {
      void worker.terminate();
      reject(
        new FaultError({
          code: 'limit-reached',
          what: 'trying the recipe takes too long',
          limit: `seconds of one try, ${MAX_TRY_MS / 1000}`,
          hint: 'Try it from the command line: bin/zero-latch prove FILE --recipe FILE.',
        }),
      );
    }, MAX_TRY_MS);
    // Nobody waits any more: another letter was typed.
    const leave = () => {
      clearTimeout(timer);
      void worker.terminate();
      reject(new FaultError({ code: 'stopped', what: 'the try was given up' }));
    };
    signal?.addEventListener('abort', leave, { once: true });
    worker.once('exit', () => signal?.removeEventListener('abort', leave));
    worker.once('message', ({ result }: { result: object }) => {
      clearTimeout(timer);
      resolve(result);
    });
    worker.once('error', (error) => {
      clearTimeout(timer);
      const outOfMemory = (error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY';
      reject(
        outOfMemory
          ? new FaultError({ code: 'limit-reached', what: 'trying the recipe takes too much memory', limit: `MB of one try, ${MAX_THREAD_MB}` })
          : error,
      );
    });
  });
}
