/** The lines of tables of texts, in two languages side by side. */
import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import { checkWords, type WordTable } from '../../core/forms/words';
import { database, type ArchiveModel } from '../database';
import { onePerProcess } from '../one-per-process';
import { changesStamp } from '../games';
import { knownRecipes } from '../recipes';
import type { WordLine, WordsPair, WordTablesAnswer } from '../shapes';
import { localeOf, tableOf, wordArchives } from './tables';
import type { Into } from './take-words';
import type { TextCodec } from '../../core/recipe';
import { readAll } from '../storage';

/** Texts that could not be taken in and are logged one by one. */
export const MOST_TOLD = 50;

export const MOST_FILE_BYTES = 64 << 20;

/** The tables there are, with their languages. */
export async function listTables(gameId: number): Promise<WordTablesAnswer> {
  const [rows, recipes] = await Promise.all([wordArchives(gameId), knownRecipes(gameId)]);
  return Promise.all(
    rows.map(async (row) => {
      const { text } = recipes.find(({ id }) => id === row.recipe)!.entries.words!;
      const spells = !text.encoding.startsWith('utf-');
      return { archive: row.id, path: row.path, locale: await localeOf(row), texts: row.entryCount, spells };
    }),
  );
}

interface Pair extends Into {
  readonly from: WordTable;
}

export async function pairOf(gameId: number, { from, to, spell }: WordsPair): Promise<Pair> {
  const rows = await wordArchives(gameId);
  const find = (id: number) => {
    const row = rows.find((one) => one.id === id);
    if (row !== undefined) return row;
    throw new FaultError({
      code: 'not-found',
      what: 'there is no such table of texts',
      hint: 'Scan the folder again.',
    });
  };
  const target = find(to);
  const [source, own] = await Promise.all([tableOf(find(from)), tableOf(target)]);
  const folder = await folderOf(target, own);
  const pathOf = (key: string) => `${folder}${key}`;
  const changes = await database().query<{ id: number; path: string; blob: string; action: string }>(
    `select id, path, blob, action from changes
     where game_id = :gameId and mod_id is null and not undone and path like :below and action <> 'remove'`,
    { replacements: { gameId, below: `${folder.replace(/[\\%_]/g, '\\$&')}%` }, type: QueryTypes.SELECT },
  );
  const texts = await textsOf(
    changes.map(({ blob }) => blob),
    own.codec,
  );
  const changed = new Map<string, { text: string; change: number }>();
  for (const { id, path, blob } of changes)
    changed.set(path.slice(folder.length), { text: texts.get(blob)!, change: id });
  return { gameId, from: source, to: own, target, changed, pathOf, spell: spell === true };
}

interface KeptLines {
  readonly mark: string;
  readonly lines: readonly WordLine[];
  readonly from: WordTable;
  readonly to: WordTable;
}

/** Pairs of tables whose lines are kept in memory. */
const MOST_PAIRS = 4;

/** All lines of a pair, worked out again only when the tables or the changes are others. */
export async function linesNow(gameId: number, { from, to }: WordsPair): Promise<readonly WordLine[]> {
  const kept = onePerProcess('word-lines', () => new Map<string, KeptLines>());
  const stamp = await changesStamp(gameId);
  const rows = await wordArchives(gameId);
  const marks = [from, to].map((id) => {
    const row = rows.find((one) => one.id === id);
    return `${row?.fingerprint} ${row?.modified} ${row?.recipe}`;
  });
  const mark = [stamp, ...marks].join(' ');
  const key = `${gameId} ${from} ${to}`;
  const known = kept.get(key);
  if (known?.mark === mark) return known.lines;
  const pair = await pairOf(gameId, { from, to });
  const lines = linesOf(pair, known);
  kept.delete(key);
  kept.set(key, { mark, lines, from: pair.from, to: pair.to });
  for (const old of [...kept.keys()].slice(0, -MOST_PAIRS)) kept.delete(old);
  return lines;
}

/**
 * By key, with numbers in their order: tables of games are often sorted by a hash.
 *
 * @param known lines of before: of the same tables their order holds, and most lines are as they were
 */
export function linesOf({ from, to, changed }: Pair, known?: KeptLines): WordLine[] {
  const before =
    known?.from === from && known.to === to ? new Map(known.lines.map((line) => [line.key, line])) : undefined;
  const fresh = [...changed.keys()].some((key) => before?.has(key) !== true);
  const keys =
    before === undefined || fresh
      ? [...new Set([...from.texts.keys(), ...to.texts.keys(), ...changed.keys()])].sort(BY_KEY)
      : [...before.keys()];
  return keys.flatMap((key) => {
    const source = from.texts.get(key)?.text ?? null;
    const game = to.texts.get(key)?.text ?? null;
    const mine = changed.get(key);
    // A key of ours alone goes with its change.
    if (source === null && game === null && mine === undefined) return [];
    const text = mine?.text ?? game;
    const untouched = text === null || (source !== null && text === source && from !== to && source.trim() !== '');
    const state = mine !== undefined ? ('changed' as const) : untouched ? ('left' as const) : ('done' as const);
    const old = before?.get(key);
    if (old?.text === text && old.state === state) return [old];
    return [
      { key, source, text, game, state, problems: checkWords({ key, source: from === to ? game : source, text }, to) },
    ];
  });
}

export const BY_KEY = new Intl.Collator('en', { numeric: true }).compare;

/** Changed texts that are kept in memory: a blob never is another. */
const MOST_TEXTS = 200_000;

/** What changed texts say, by their blobs. */
export async function textsOf(blobs: readonly string[], codec: TextCodec): Promise<Map<string, string>> {
  const kept = onePerProcess('changed-texts', () => new Map<string, string>());
  const keyOf = (blob: string) => `${codec.encoding} ${blob}`;
  const texts = new Map<string, string>();
  const unread: string[] = [];
  for (const blob of blobs) {
    const known = kept.get(keyOf(blob));
    if (known === undefined) unread.push(blob);
    else texts.set(blob, known);
  }
  if (kept.size + unread.length > MOST_TEXTS) kept.clear();
  for (const [blob, bytes] of await readAll(unread)) {
    const text = shown(bytes, codec);
    texts.set(blob, text);
    kept.set(keyOf(blob), text);
  }
  return texts;
}

/** What is before the key in the paths of a table. */
export async function folderOf(row: ArchiveModel, { texts }: WordTable): Promise<string> {
  const [first] = texts;
  if (first === undefined)
    throw new FaultError({
      code: 'wrong-kind',
      file: row.path,
      what: 'the table is empty, so the form of its paths is not known',
    });
  const [key, { n }] = first;
  const [entry] = await database().query<{ path: string }>(
    'select path from entries where archive_id = :id and n = :n',
    { replacements: { id: row.id, n }, type: QueryTypes.SELECT },
  );
  const path = entry?.path ?? '';
  if (path.endsWith(key)) return path.slice(0, -key.length);
  throw new FaultError({ code: 'wrong-kind', file: row.path, what: 'the paths of the table do not end with its keys' });
}

/** A file that was dropped on a text may be written otherwise; it is shown as far as it can be. */
function shown(bytes: Buffer, codec: TextCodec): string {
  try {
    return codec.decode(bytes);
  } catch {
    return bytes.toString('utf8');
  }
}
