/**
 * What one request has asked for already. A preview asks for the row of its archive, its files and the recipes of its game in
 * many places; within one answer they are the same.
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import { onePerProcess } from './one-per-process';

type Memo = Map<string, Promise<unknown>>;

const memos = (): AsyncLocalStorage<Memo> => onePerProcess('request-memos', () => new AsyncLocalStorage<Memo>());

/** Runs work that only reads. Within other such work it shares what that has asked for. */
export function readOnly<T>(work: () => Promise<T>): Promise<T> {
  return memos().getStore() === undefined ? memos().run(new Map(), work) : work();
}

/**
 * Asks once within {@link readOnly}, and each time outside of it.
 *
 * @param question names what is asked, with all that the answer depends on
 */
export function askedOnce<T>(question: string, ask: () => Promise<T>): Promise<T> {
  const memo = memos().getStore();
  if (memo === undefined) return ask();
  const known = memo.get(question) as Promise<T> | undefined;
  const answer = known ?? ask();
  if (known === undefined) memo.set(question, answer);
  return answer;
}
