/** The workbench's work on texts and files. */
import { sayFault } from '../../core/faults';
import type { TryOrder } from '../../workers/recipe-thread';
import type { CheckAnswer, HintsAnswer, TryAnswer } from '../shapes';
import { checkTexts, inRecipeThread } from './thread';

const CELLS = 160;

/** Compiles a text and says what is wrong with it, at its line. */
export async function checkRecipe(text: string): Promise<CheckAnswer> {
  const [checked] = await checkTexts([text]);
  const { fault } = checked!;
  if (fault === undefined) return { fault: null };
  return { fault: { code: fault.code, sentence: sayFault(fault), line: fault.line ?? 1, at: null } };
}

/** Tries a recipe on a file: what it reads, the fields with their bytes, the parts of the proof. */
export async function tryRecipe(order: Omit<TryOrder, 'task'>, signal?: AbortSignal): Promise<TryAnswer> {
  return (await inRecipeThread({ task: 'try', ...order }, signal)) as TryAnswer;
}

/** What an unknown file gives away. */
export async function hintsFor(file: string, signal?: AbortSignal): Promise<HintsAnswer> {
  return (await inRecipeThread({ task: 'hints', file, cells: CELLS }, signal)) as HintsAnswer;
}
