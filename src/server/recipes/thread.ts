/** Work on untrusted recipes, in a thread that can be ended and cannot take all memory. */
import type { Worker as WorkerThread } from 'node:worker_threads';
import { FaultError } from '../../core/faults';
import type { CheckedText, CheckOrder, HintOrder, TryOrder } from '../../workers/recipe-thread';
import { programFile } from '../programs';

const MAX_THREAD_MB = 384;

/** What a kind of work is called, and how long it may take. */
const WORK = {
  try: { what: 'trying the recipe', hint: 'Try it from the command line: bin/zero-latch prove FILE --recipe FILE.' },
  hints: { what: 'looking for hints', hint: 'Look at a smaller file of the same kind.' },
  check: { what: 'compiling the recipe', hint: 'Make it smaller: fewer shapes, fields and names in let.' },
} as const;
/** Of the clock: on a machine that is busy with other things too, honest work must not be taken for endless work. */
const MAX_MS = 30_000;

/** @throws FaultError `limit-reached` when it takes too long or too much memory, `stopped` on request */
export function inRecipeThread(order: TryOrder | HintOrder | CheckOrder, signal?: AbortSignal): Promise<object> {
  const { what, hint } = WORK[order.task];
  return new Promise((resolve, reject) => {
    // The bundler takes over every Worker it sees, and cannot run this file: Node's own is asked for at run time.
    const { Worker } = process.getBuiltinModule('node:worker_threads');
    const worker: WorkerThread = new Worker(programFile('recipe-thread'), {
      workerData: order,
      resourceLimits: { maxOldGenerationSizeMb: MAX_THREAD_MB },
    });
    const end = (settle: () => void) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', leave);
      void worker.terminate();
      settle();
    };
    const refuse = (limit: string, how: string) =>
      end(() => reject(new FaultError({ code: 'limit-reached', what: `${what} takes too ${how}`, limit, hint })));
    const timer = setTimeout(() => refuse(`${MAX_MS / 1000} seconds`, 'long'), MAX_MS);
    // The answer is no longer wanted: another letter was typed.
    const leave = () => end(() => reject(new FaultError({ code: 'stopped', what: `${what} was given up` })));
    signal?.addEventListener('abort', leave, { once: true });
    worker.once('message', ({ result }: { result: object }) => end(() => resolve(result)));
    worker.once('error', (error) => {
      if ((error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY') refuse(`${MAX_THREAD_MB} MB`, 'much memory');
      else end(() => reject(error));
    });
  });
}

/**
 * Compiles texts one after the other, each in the same thread, and says what they are. One that ends the thread is reported
 * as a fault of its own.
 */
export async function checkTexts(texts: readonly string[]): Promise<CheckedText[]> {
  if (texts.length === 0) return [];
  try {
    return (await inRecipeThread({ task: 'check', texts })) as CheckedText[];
  } catch (error) {
    if (!(error instanceof FaultError)) throw error;
    if (texts.length === 1) return [{ fault: error.fault }];
    // One of them took too much: each gets a thread of its own.
    const checked: CheckedText[] = [];
    for (const text of texts) checked.push(...(await checkTexts([text])));
    return checked;
  }
}

/**
 * What a text is.
 *
 * @throws FaultError what is wrong with it, with its line
 */
export async function checkedText(text: string): Promise<Extract<CheckedText, { fault: undefined }>> {
  const [checked] = await checkTexts([text]);
  if (checked!.fault !== undefined) throw new FaultError(checked!.fault);
  return checked as Extract<CheckedText, { fault: undefined }>;
}
