/** Name lists of a game: brought in, made from patterns, harvested, removed. */
import { z } from 'zod';
import { FaultError } from '../../../core/faults';
import { parsePattern } from '../../../core/names';
import { ArchiveModel, NameListModel } from '../../database';
import { startRun } from '../../runs';
import type { NameListAnswer, PatternEdit, RunAnswer } from '../../shapes';
import { keepBlob } from '../../storage';
import { requireGame } from '../require-game';
import type { PatternSource } from './names-run';

const MAX_LIST_BYTES = 256 << 20;
/** Paths of a pattern; a search of more would take days. */
const MAX_PATTERN = 1e12;

export async function listNames(gameId: number): Promise<NameListAnswer[]> {
  const lists = await NameListModel.findAll({ where: { gameId }, order: [['id', 'ASC']] });
  return lists.map(({ id, name, kind, tested, matched, notes }) => ({ id, name, kind, tested, matched, notes }));
}

async function requireHashed(gameId: number): Promise<void> {
  if ((await ArchiveModel.count({ where: { gameId, hashed: true } })) > 0) return;
  throw new FaultError({
    code: 'conflict',
    what: 'no open archive of this game keeps hashes instead of names',
    hint: 'Unlock what is locked first.',
  });
}

/** Keeps a list and starts the run that applies it. @throws FaultError when nothing of the game is hashed */
export async function addNameList(gameId: number, name: string, bytes: AsyncIterable<Uint8Array>): Promise<RunAnswer> {
  await requireGame(gameId);
  await requireHashed(gameId);
  const blob = await keepBlob(bytes, { maxBytes: MAX_LIST_BYTES });
  const list = await NameListModel.create({ gameId, name, kind: 'list', source: blob.sha256 });
  return startRun('names', { title: `Testing names of ${name}`, gameId, input: { lists: [list.id] } });
}

/** @throws FaultError `invalid-request` that says where the pattern is wrong */
export async function addPattern(gameId: number, { pattern, words }: PatternEdit): Promise<RunAnswer> {
  await requireGame(gameId);
  const source = patternSource({ pattern, words });
  checkPattern(source);
  await requireHashed(gameId);
  const list = await NameListModel.create({ gameId, name: pattern, kind: 'pattern', source: JSON.stringify(source) });
  return startRun('names', { title: `Testing names like ${pattern}`, gameId, input: { lists: [list.id] } });
}

const patternSourceText = z.strictObject({ pattern: z.string(), words: z.record(z.string(), z.array(z.string())) });

/** A pattern as it is kept, from elsewhere. @throws FaultError, or ZodError when it is none */
export function checkPatternText(text: string): void {
  let kept: unknown;
  try {
    kept = JSON.parse(text);
  } catch {
    throw new FaultError({ code: 'invalid-request', what: 'a pattern of the profile is not JSON' });
  }
  checkPattern(patternSourceText.parse(kept));
}

function checkPattern(source: PatternSource): void {
  const { count } = parsePattern(source.pattern, source.words);
  if (count > MAX_PATTERN)
    throw new FaultError({
      code: 'limit-reached',
      what: 'the pattern matches too many paths',
      found: count.toExponential(1),
      limit: `paths of one pattern, ${MAX_PATTERN.toExponential(0)}`,
      hint: 'Use a word list in place of letters.',
    });
}

/** How many paths a pattern represents. @throws FaultError as {@link addPattern} does */
export function countPattern(edit: PatternEdit): { count: number; first: string; last: string } {
  const { pattern, words } = patternSource(edit);
  const { parts, count } = parsePattern(pattern, words);
  const at = (end: 'first' | 'last') => parts.map((part) => (end === 'first' ? part[0] : part.at(-1))).join('');
  return { count, first: at('first'), last: at('last') };
}

function patternSource({ pattern, words }: PatternEdit): PatternSource {
  const lines = (text: string) =>
    text
      .split(/\r?\n/)
      .map((line) => line.trim())
      .filter((line) => line !== '');
  return { pattern, words: Object.fromEntries(Object.entries(words).map(([name, text]) => [name, lines(text)])) };
}

/** Looks for names in the content of the game itself. */
export async function harvestNames(gameId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  await requireHashed(gameId);
  const [list] = await NameListModel.findOrCreate({
    where: { gameId, kind: 'harvest' },
    defaults: { gameId, name: 'found in the game', kind: 'harvest', source: '' },
  });
  return startRun('names', { title: `Looking for names in ${game.name}`, gameId, input: { lists: [list.id] } });
}

/** Removes a list with the names only it gave. */
export async function removeNameList(gameId: number, id: number): Promise<RunAnswer> {
  const list = await NameListModel.findOne({ where: { gameId, id } });
  if (list === null) throw new FaultError({ code: 'not-found', what: 'there is no such name list' });
  await list.destroy();
  return startRun('names', { title: `Removing the names of ${list.name}`, gameId, input: {} });
}
