/** Words: tables next to each other, out to translators and back, and into the game. */
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { listChanges, setUndone, undoDrop } from '../../src/server/changes';
import { GameModel } from '../../src/server/database';
import { gameAnswer } from '../../src/server/games';
import { putBackAnswer, startBuild, startPutIn, startTakeBack } from '../../src/server/put-back';
import { wordsQuery } from '../../src/server/shapes';
import { blobPath } from '../../src/server/storage';
import {
  addLanguage,
  fillTwins,
  listLanguages,
  listTables,
  listWords,
  replaceWords,
  setWord,
  startWordsIn,
  wordsFile,
} from '../../src/server/words';
import { ended, fault, games, once, openedGame, settled, withWorker } from './support';

withWorker();

let id: number;
let pair: { from: number; to: number };
beforeAll(async () => {
  ({ id } = await openedGame('words'));
  await settled(id);
  const tables = await listTables(id);
  const of = (locale: string) => tables.find((table) => table.locale === locale)!.archive;
  pair = { from: of('en'), to: of('de') };
});

const words = (more: object = {}) => listWords(id, wordsQuery.parse({ ...pair, ...more }));
const brought = async (name: string, text: string) => ended((await startWordsIn(id, pair, name, once(text))).id);

test('tables stand beside each other by key; a text is changed, checked, and undone by typing what the game has', async () => {
  const { counts, rows } = await words();
  expect(counts).toMatchObject({ all: rows.length, changed: 0, wrong: 0 });
  expect(rows.every(({ source, text }) => source !== null && text !== null)).toBe(true);
  const [first] = rows;
  await setWord(id, pair, { key: first!.key, text: 'Etwas anderes {0}' });
  const [changed] = (await words({ show: 'changed' })).rows;
  expect(changed).toMatchObject({
    ...{ key: first!.key, text: 'Etwas anderes {0}', game: first!.text, state: 'changed' },
    problems: ['{0} is not in the source'],
  });
  expect((await words({ search: 'nowhere to be found' })).total).toBe(0);
  expect((await words({ search: 'etwas ANDERES', show: 'wrong' })).total).toBe(1);
  await setWord(id, pair, { key: first!.key, text: first!.text! });
  expect((await words()).counts.changed).toBe(0);
});

test('PO goes out, passes msgfmt, comes back, and only what changed is a change', async () => {
  const { name, text } = await wordsFile(id, { ...pair, as: 'po' });
  expect(name).toBe('de.po');
  const file = join(games, 'de.po');
  writeFileSync(file, text);
  execFileSync('msgfmt', ['--check-format', '--check-header', '-o', join(games, 'de.mo'), file], { stdio: 'pipe' });
  const [one, two] = (await words()).rows;
  const edited = text
    .replace(`msgstr ${JSON.stringify(one!.text)}`, 'msgstr "Neu übersetzt"')
    .concat('\nmsgctxt "nobody.knows"\nmsgid "a"\nmsgstr "b"\n');
  const run = await brought('de.po', edited);
  expect(run.result).toMatchObject({ taken: 1, unknown: 1 });
  expect(JSON.stringify(run.log)).toContain('nobody.knows is no key of the game');
  const { rows } = await words({ show: 'changed' });
  expect(rows.map(({ key, text: now }) => [key, now])).toEqual([[one!.key, 'Neu übersetzt']]);
  // A part of the work of someone else: rows it does not name stay.
  expect((await brought('part.csv', `key,text\n${two!.key},Von jemand anderem\n`)).result).toMatchObject({ taken: 1 });
  expect((await words()).counts.changed).toBe(2);
  expect((await brought('de.json', JSON.stringify({ [two!.key]: two!.text }))).result).toMatchObject({ taken: 1 });
  expect((await words()).counts.changed).toBe(1);
  expect(await fault(startWordsIn(id, pair, 'bad.csv', once('a;b\n1;2\n')))).toMatchObject({ code: 'wrong-kind' });
});

test('texts of another language are asked about, and a key that stands twice costs that key alone', async () => {
  const [first, second] = (await words()).rows;
  const po = (locale: string) =>
    `msgid ""\nmsgstr ""\n"Language: ${locale}\\n"\n\nmsgctxt "${first!.key}"\nmsgid "a"\nmsgstr "elsewhere"\n`;
  const before = await listChanges(id);
  expect(await fault(startWordsIn(id, pair, 'theirs.po', once(po('fr'))))).toMatchObject({
    code: 'other-language',
    what: 'the file says that its texts are in “fr”, and “de” is open',
  });
  expect(await fault(startWordsIn(id, pair, 'fr.json', once('{}')))).toMatchObject({ code: 'other-language' });
  expect(await listChanges(id)).toHaveLength(before.length);
  // A name of three letters need not be a language.
  expect((await brought('all.csv', 'key,text\n')).state).toBe('done');
  const anyway = await startWordsIn(id, { ...pair, anyway: true }, 'theirs.po', once(po('fr')));
  expect((await ended(anyway.id)).result).toMatchObject({ taken: 1 });
  await setWord(id, pair, { key: first!.key, text: first!.game! });
  const twice = `key,text\n${first!.key},one\n${second!.key},alone\n${first!.key},two\n`;
  const run = await brought('de.csv', twice);
  expect(run.result).toMatchObject({ texts: 1, taken: 1, doubled: 1 });
  await setWord(id, pair, { key: second!.key, text: second!.game! });
});

test('an import is undone as a whole, and what it took the place of comes back', async () => {
  const [first, second, third] = (await words()).rows;
  await setWord(id, pair, { key: first!.key, text: 'mine' });
  await setWord(id, pair, { key: third!.key, text: 'mine too' });
  // The last of them is to be as the game has it again.
  const file = `key,text\n${first!.key},theirs\n${second!.key},theirs as well\n${third!.key},${JSON.stringify(third!.game!)}\n`;
  expect((await brought('de.csv', file)).result).toMatchObject({ taken: 3 });
  const now = async () =>
    Object.fromEntries((await words({ show: 'changed' })).rows.map(({ key, text }) => [key, text]));
  expect(await now()).toEqual({ [first!.key]: 'theirs', [second!.key]: 'theirs as well' });
  const drop = (await listChanges(id)).find(({ undone, path }) => !undone && path.endsWith(first!.key))!.drop!;
  expect(await undoDrop(id, drop)).toEqual({ undone: 2 });
  expect(await now()).toEqual({ [first!.key]: 'mine', [third!.key]: 'mine too' });
  await setWord(id, pair, { key: first!.key, text: first!.game! });
  await setWord(id, pair, { key: third!.key, text: third!.game! });
  expect(await now()).toEqual({});
  // What was set aside by hand since is not brought back by undoing the import again.
  await undoDrop(id, drop);
  expect(await now()).toEqual({});
});

test('part of many texts is replaced, the table is built anew, and the game starts with it', async () => {
  const before = await words();
  const replaced = await ended((await replaceWords(id, wordsQuery.parse(pair), 'e', 'ë')).id);
  const changed = Number((replaced.result as { taken: number }).taken);
  expect(changed).toBeGreaterThan(3);
  expect(await fault(replaceWords(id, wordsQuery.parse(pair), 'not in any', ''))).toMatchObject({ code: 'conflict' });
  const build = await ended((await startBuild(id, 'patch')).id);
  expect(build.result).toMatchObject({ started: true });
  const [made] = (await putBackAnswer(id)).builds;
  expect(made!.files.map((file) => file.name)).toEqual(['words/zz-my-de.lex']);
  const lex = readFileSync(blobPath(made!.files[0]!.sha256)).toString('utf8');
  for (const { text } of (await words({ show: 'changed' })).rows) expect(lex).toContain(text!);
  expect((await listChanges(id)).filter(({ undone }) => !undone).length).toBeGreaterThanOrEqual(changed);
  expect((await words()).counts.all).toBe(before.counts.all);
});

test('how much is done is told by group, and what has no twin is not filled in', async () => {
  const { groups, counts } = await words();
  expect(groups.reduce((sum, { done, left }) => sum + done + left, 0)).toBe(counts.all);
  expect(groups.find(({ name }) => name === 'place')).toMatchObject({ left: expect.any(Number) });
  expect(await fault(fillTwins(id, pair))).toMatchObject({ code: 'conflict' });
});

test('a language is made of an old one: its table, what the menu says, and its place in the game are in step', async () => {
  for (const { id: change, undone } of await listChanges(id)) if (!undone) await setUndone(id, change, true);
  const order = { from: pair.from, code: 'es', about: 'title = Español\nfallback = en\n' };
  expect(await fault(addLanguage(id, { ...order, code: 'de' }))).toMatchObject({ code: 'conflict' });
  await ended((await addLanguage(id, order)).id);
  expect((await listLanguages(id)).map(({ code, state }) => `${code} ${state}`)).toContain('es new');
  const made = (await listTables(id)).find(({ locale }) => locale === 'es')!;
  expect(made.path).toBe('words/es.lex');
  const own = { from: pair.from, to: made.archive };
  const before = await listWords(id, wordsQuery.parse(own));
  expect(before.counts).toMatchObject({ changed: 0, done: 0, left: before.counts.all });
  await setWord(id, own, { key: before.rows[0]!.key, text: 'Atención a las puertas' });
  const built = await ended((await startBuild(id, 'patch')).id);
  expect(built.result).toMatchObject({ started: true });
  const [build] = (await putBackAnswer(id)).builds;
  expect(build!.files.map(({ name }) => name).sort()).toEqual(['words/es.lex', 'words/lex.meta']);
  const lex = readFileSync(blobPath(build!.files.find(({ name }) => name === 'words/es.lex')!.sha256));
  expect(lex.subarray(4, 6).toString()).toBe('es');
  expect(lex.includes('Atención a las puertas')).toBe(true);
  // What the game reads by its name takes its place, also where changes lie loose.
  expect((await ended((await startBuild(id, 'loose')).id)).result).toMatchObject({ started: true });
  const [loose] = (await putBackAnswer(id)).builds;
  expect(loose!.files.map(({ name }) => name).sort()).toEqual(['words/es.lex', 'words/lex.meta']);
  // A file the game does not have yet goes into its folder, and comes out again.
  const { folder } = (await GameModel.findByPk(id))!;
  expect(existsSync(join(folder, 'words/es.lex'))).toBe(false);
  expect(await ended((await startPutIn(id, build!.id)).id)).toMatchObject({ state: 'done' });
  expect(readFileSync(join(folder, 'words/es.lex')).equals(lex)).toBe(true);
  const [install] = (await putBackAnswer(id)).installs;
  expect(await ended((await startTakeBack(id, install!.id, false)).id)).toMatchObject({ state: 'done' });
  expect(existsSync(join(folder, 'words/es.lex'))).toBe(false);
  // Undone it is gone, and the game has lost nothing.
  const main = (await listChanges(id)).find(({ path, undone }) => path === 'words/es.lex' && !undone)!;
  await setUndone(id, main.id, true);
  await settled(id);
  expect((await listTables(id)).map(({ locale }) => locale)).not.toContain('es');
  expect((await listLanguages(id)).map(({ code }) => code)).not.toContain('es');
  expect((await gameAnswer(id)).lastScan?.news.gone ?? []).toEqual([]);
});
