/** Texts of a game by key, in the language that is translated from next to the one that is translated to. */
import { FaultError } from '../../core/faults';
import { writeWords, type WordEdit, type WordRow } from '../../core/forms/words';
import type { RunAnswer, WordLine, WordsAnswer, WordsFile, WordsPair, WordsQuery } from '../shapes';
import { takeWords } from './take-words';
import { takeIn } from './words-import';
import { pairOf, linesNow, linesOf } from './word-lines';

export async function listWords(gameId: number, query: WordsQuery): Promise<WordsAnswer> {
  const lines = await linesNow(gameId, query);
  const counts = { all: lines.length, left: 0, done: 0, changed: 0, wrong: 0 };
  for (const { state, problems } of lines) {
    counts[state]++;
    if (problems.length > 0) counts.wrong++;
  }
  const search = query.search.trim().toLowerCase();
  const fits = lines.filter(
    ({ key, source, text, state, problems }) =>
      (query.show === 'all' || state === query.show || (query.show === 'wrong' && problems.length > 0)) &&
      (search === '' || [key, source, text].some((one) => one?.toLowerCase().includes(search) === true)),
  );
  return {
    counts,
    groups: groupsOf(lines),
    total: fits.length,
    rows: fits.slice(query.offset, query.offset + query.limit),
  };
}

/** Groups that are drawn. */
const MOST_GROUPS = 12;

/** How much is done by what keys begin with; the largest groups first, and the rest as one. */
function groupsOf(lines: readonly WordLine[]): WordsAnswer['groups'] {
  const found = new Map<string, { name: string; done: number; left: number }>();
  for (const { key, state } of lines) {
    const name = /^[^._/:-]+/.exec(key)?.[0] ?? key;
    const group = found.get(name) ?? { name, done: 0, left: 0 };
    found.set(name, group);
    group[state === 'left' ? 'left' : 'done']++;
  }
  const all = [...found.values()].sort((a, b) => b.done + b.left - (a.done + a.left));
  const rest = all.slice(MOST_GROUPS - 1);
  if (rest.length < 2) return all;
  const sum = (of: 'done' | 'left') => rest.reduce((total, group) => total + group[of], 0);
  return [...all.slice(0, MOST_GROUPS - 1), { name: null, done: sum('done'), left: sum('left') }];
}

/** A text is to be another one; what the game has is no change. */
export async function setWord(gameId: number, pair: WordsPair, edit: WordEdit): Promise<void> {
  await takeWords(await pairOf(gameId, pair), [edit], { matchedBy: { code: 'typed', in: 'words' } });
}

/**
 * Every text of the target that fits the filter, with one part put in the place of another, by a run.
 *
 * @throws FaultError `conflict` when none has that part
 */
export async function replaceWords(gameId: number, query: WordsQuery, find: string, by: string): Promise<RunAnswer> {
  const { rows } = await listWords(gameId, { ...query, offset: 0, limit: Number.MAX_SAFE_INTEGER });
  const edits = rows.flatMap(({ key, text }) =>
    text?.includes(find) === true ? [{ key, text: text.replaceAll(find, by) }] : [],
  );
  if (edits.length === 0) throw new FaultError({ code: 'conflict', what: `no text that is shown has “${find}” in it` });
  return takeIn(gameId, query, edits, `“${find}” becomes “${by}”`);
}

export async function wordsFile(gameId: number, { as, ...pair }: WordsFile): Promise<{ name: string; text: string }> {
  const both = await pairOf(gameId, pair);
  const rows: WordRow[] = linesOf(both).map(({ key, source, text }) => ({ key, source, text }));
  return { name: `${both.to.locale}.${as}`, text: writeWords(rows, as, both.to.locale, both.from.locale) };
}
