/** Texts of a game by key, in the language that is translated from next to the one that is translated to. */
import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import {
  checkWords,
  isSameLanguage,
  readWords,
  twinsOf,
  writeWords,
  type WordEdit,
  type WordRow,
  type WordTable,
} from '../../core/forms/words';
import type { TextCodec } from '../../core/recipe';
import { database, DropModel, type ArchiveModel } from '../database';
import { onePerProcess } from '../one-per-process';
import { changesStamp } from '../games';
import { knownRecipes } from '../recipes';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import {
  type RunAnswer,
  type WordLine,
  type WordsAnswer,
  type WordsFile,
  type WordsPair,
  type WordsQuery,
  type WordTablesAnswer,
  type RunOrder,
  type RunResult,
} from '../shapes';
import { keepBlob, keepBytes, readAll, readBlob } from '../storage';
import { localeOf, tableOf, wordArchives } from './tables';
import { takeWords, type Into } from './take-words';

/** Texts that could not be taken in and are logged one by one. */
const MOST_TOLD = 50;
const MOST_FILE_BYTES = 64 << 20;

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

const BY_KEY = new Intl.Collator('en', { numeric: true }).compare;

interface Pair extends Into {
  readonly from: WordTable;
}

async function pairOf(gameId: number, { from, to, spell }: WordsPair): Promise<Pair> {
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

/** Changed texts that are kept in memory: a blob never is another. */
const MOST_TEXTS = 200_000;

/** What changed texts say, by their blobs. */
async function textsOf(blobs: readonly string[], codec: TextCodec): Promise<Map<string, string>> {
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

/** A file that was dropped on a text may be written otherwise; it is shown as far as it can be. */
function shown(bytes: Buffer, codec: TextCodec): string {
  try {
    return codec.decode(bytes);
  } catch {
    return bytes.toString('utf8');
  }
}

/** What is before the key in the paths of a table. */
async function folderOf(row: ArchiveModel, { texts }: WordTable): Promise<string> {
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
function linesOf({ from, to, changed }: Pair, known?: KeptLines): WordLine[] {
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

/**
 * @throws FaultError `wrong-kind` when the file cannot be read; `other-language` when it says that its texts are in
 *   another language than the one that is open, unless `anyway`
 */
export async function startWordsIn(
  gameId: number,
  { anyway = false, ...pair }: WordsPair & { readonly anyway?: boolean },
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<RunAnswer> {
  const { sha256 } = await keepBlob(bytes, { maxBytes: MOST_FILE_BYTES });
  const { locale: stated } = readWords(await readBlob(sha256), name);
  const open = (await pairOf(gameId, pair)).to.locale;
  // A name states a language only where the game has that one: `all.csv` is in none.
  const isName = /\.(csv|json)$/i.test(name);
  const isKnown = async (one: string) => (await listTables(gameId)).some(({ locale }) => isSameLanguage(one, locale));
  const locale = stated !== undefined && isName && !(await isKnown(stated)) ? undefined : stated;
  if (!anyway && locale !== undefined && open !== '' && !isSameLanguage(locale, open))
    throw new FaultError({
      code: 'other-language',
      what: `the file says that its texts are in “${locale}”, and “${open}” is open`,
      file: name,
      hint: `Choose the table of “${locale}”, or take the texts in as “${open}” all the same.`,
    });
  return startImport(gameId, { ...pair, name, file: sha256 }, `Texts of ${name}`);
}

/**
 * Texts that are left to do and whose source is elsewhere with a text are given that text, by a run.
 *
 * @throws FaultError `conflict` when there are none
 */
export async function fillTwins(gameId: number, pair: WordsPair): Promise<RunAnswer> {
  const lines = await linesNow(gameId, pair);
  const edits = twinsOf(lines.map((line) => ({ ...line, left: line.state === 'left' })));
  if (edits.length === 0)
    throw new FaultError({ code: 'conflict', what: 'no text that is left has a source that is translated elsewhere' });
  return takeIn(gameId, pair, edits, 'What is translated elsewhere');
}

/** Many texts at once, by a run. */
async function takeIn(
  gameId: number,
  { from, to, spell }: WordsPair,
  edits: readonly WordEdit[],
  title: string,
): Promise<RunAnswer> {
  const texts = Object.fromEntries(edits.map(({ key, text }) => [key, text]));
  const { sha256 } = await keepBytes(Buffer.from(JSON.stringify(texts)));
  const input = { from, to, ...(spell === undefined ? {} : { spell }), name: 'texts.json', file: sha256 };
  return startImport(gameId, input, title);
}

/** All texts of one import are one drop, also when its run is interrupted and resumed: it can be undone as a whole. */
async function startImport(
  gameId: number,
  input: Omit<RunOrder<'words-in'>, 'drop'>,
  title: string,
): Promise<RunAnswer> {
  const { id: drop } = await DropModel.create({ gameId });
  return startRun('words-in', { title, gameId, input: { ...input, drop } });
}

/** What a file says is taken in text by text; rows it does not name are unchanged. */
export async function wordsInRun({
  gameId,
  input,
  signal,
  progress,
  log,
}: RunContext<'words-in'>): Promise<RunResult<'words-in'>> {
  const { name, file, drop: dropId } = input;
  const { edits, doubled } = readWords(await readBlob(file), name);
  for (const key of doubled.slice(0, MOST_TOLD)) log(`${key} appears in the file more than once, and is left out`);
  const pair = await pairOf(gameId, input);
  const unknown = new Set(edits.filter(({ key }) => !pair.from.texts.has(key) && !pair.to.texts.has(key)));
  for (const { key } of [...unknown].slice(0, MOST_TOLD)) log(`${key} is no key of the game, and is left out`);
  let failures = 0;
  const taken = await takeWords(
    pair,
    edits.filter((edit) => !unknown.has(edit)),
    {
      matchedBy: { code: 'from-file', file: name },
      dropId,
      signal,
      progress: (done, total) => progress(done, total, 'entries'),
      onRefused: (sentence) => {
        failures++;
        if (failures <= MOST_TOLD) log(sentence);
      },
    },
  );
  return { texts: edits.length, taken, unknown: unknown.size, doubled: doubled.length, failures };
}
