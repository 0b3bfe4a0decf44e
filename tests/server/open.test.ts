/** Whole games: what a scan finds and tells, archives inside archives, loose files, names, keys and profiles. */
import {
  chmodSync,
  mkdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { listChanges, takeChange } from '../../src/server/changes';
import { BuildModel, KeyModel, RunModel } from '../../src/server/database';
import { entryDetails, listEntries } from '../../src/server/entries';
import { entryBytes, findWinner } from '../../src/server/content';
import {
  addGame,
  addKeyFile,
  addNameList,
  archivesInside,
  changeLoadOrder,
  exportProfile,
  forgetGame,
  gameAnswer,
  importProfile,
  listGames,
  removeKey,
  searchSentFile,
  solveXorOf,
} from '../../src/server/games';
import { walkFolder } from '../../src/server/games/scan/walk';
import { startBuild } from '../../src/server/put-back';
import { listRecipes } from '../../src/server/recipes';
import { startRun } from '../../src/server/runs';
import { entryQuery, type GameAnswer } from '../../src/server/shapes';
import { blobPath } from '../../src/server/storage';
import { editTray, startTakeOut } from '../../src/server/take-out';
import { ended, fault, freshGame, games, openedGame, settled, withWorker, once } from './support';

withWorker();

async function scanned(id: number): Promise<GameAnswer> {
  const run = await ended((await startRun('scan', { title: 'Scan', gameId: id, input: {} })).id);
  expect(run.state).toBe('done');
  await settled(id);
  return gameAnswer(id);
}

const archive = (game: GameAnswer, path: string) => game.archives.find((one) => one.path === path)!;

test('a second scan reads nothing; a moved archive is told from a changed one, and what changed inside is listed', async () => {
  const { id, folder } = await openedGame('moved');
  await settled(id);
  await scanned(id);
  const again = await ended((await startRun('scan', { title: 'Scan', gameId: id, input: {} })).id);
  expect(again.result).toMatchObject({ read: 4, build: '1.4.1' });
  const before = archive(await gameAnswer(id), 'core.hold').id;
  renameSync(join(folder, 'core.hold'), join(folder, 'base.hold'));
  const moved = await scanned(id);
  expect(moved.lastScan!.news).toMatchObject({ moved: [{ from: 'core.hold', to: 'base.hold' }], gone: [], added: [] });
  expect(archive(moved, 'base.hold').id).toBe(before);
  renameSync(join(folder, 'base.hold'), join(folder, 'core.hold'));
  await scanned(id);
  freshGame(folder, '1.4.2');
  const next = await scanned(id);
  expect(next.lastScan!.news).toMatchObject({ buildBefore: '1.4.1', changed: expect.arrayContaining(['core.hold']) });
  expect(next.build).toBe('1.4.2');
  expect(archive(next, 'core.hold').state).toBe('locked');
  const key = gameKey('1.4.2', 'content');
  await ended((await addKeyFile(id, once(`# keys of the new build\ncontent = ${key.toString('base64')}\n`))).id);
  await settled(id);
  const opened = await gameAnswer(id);
  expect(archive(opened, 'core.hold').news).toMatchObject({ since: '1.4.1', added: 0, changed: 3, gone: 0 });
  expect(opened.keys.map(({ name, build }) => ({ name, build }))).toContainEqual({ name: 'content', build: '1.4.2' });
});

test('a damaged volume, a missing companion and a link out of the roots are told, and the rest opens', async () => {
  const folder = join(games, 'trouble');
  rmSync(folder, { recursive: true, force: true });
  freshGame(folder);
  truncateSync(join(folder, 'world.001'), 1_000);
  rmSync(join(folder, 'props.crate.bulk'));
  symlinkSync('/etc', join(folder, 'outside'));
  const { game, run } = await addGame({ folder });
  expect((await ended(run.id)).state).toBe('done');
  const answer = await gameAnswer(game.id);
  expect(archive(answer, 'world.idx')).toMatchObject({ state: 'damaged' });
  expect(archive(answer, 'world.idx').fault!.sentence).toMatch(/world\.001/);
  expect(archive(answer, 'props.crate').fault).toMatchObject({
    code: 'volume-missing',
    sentence: expect.stringContaining('props.crate needs props.crate.bulk'),
  });
  expect(archive(answer, 'stock.toc').state).toBe('open');
  expect(answer.lastScan!.trouble.join()).toMatch(/outside.*may touch/);
});

test('a folder without rights is told, and the others are walked', async () => {
  const folder = join(games, 'rights');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'shut'), { recursive: true });
  writeFileSync(join(folder, 'seen.txt'), 'seen');
  chmodSync(join(folder, 'shut'), 0o000);
  // Nothing is shut to root: the walk is made as someone else.
  const root = process.getuid?.() === 0;
  const outer = [games, join(games, '..'), join(games, '..', '..'), join(games, '..', '..', '..')];
  const modes = outer.map((path) => statSync(path).mode);
  if (root) outer.forEach((path) => chmodSync(path, 0o755));
  if (root) process.seteuid!(65_534);
  try {
    const { files, trouble } = await walkFolder(folder, new AbortController().signal);
    expect(files.map(({ path }) => path)).toEqual(['seen.txt']);
    expect(trouble).toMatchObject([{ code: 'not-allowed', file: 'shut' }]);
  } finally {
    if (root) process.seteuid!(0);
    if (root) outer.forEach((path, i) => chmodSync(path, modes[i]!));
    chmodSync(join(folder, 'shut'), 0o755);
  }
});

test('packages in a set open in place with their pictures; a change inside goes up through the set, and the game loads it', async () => {
  const { id } = await openedGame('nested');
  const set = archive(await gameAnswer(id), 'parcels.set');
  const inside = await archivesInside(id, set.id);
  expect(inside).toMatchObject({ total: 12 });
  expect(inside.rows.every(({ state, picture }) => state === 'open' && picture !== null)).toBe(true);
  const first = inside.rows[0]!;
  const { rows } = await listEntries(id, entryQuery.parse({ archive: String(first.id) }));
  const picture = rows.find(({ kind }) => kind === 'picture')!;
  expect(picture.path.startsWith(`${first.name}/`)).toBe(true);
  const other = await listEntries(
    id,
    entryQuery.parse({ archive: String(inside.rows[1]!.id), search: 'kind:picture' }),
  );
  const { bytes } = await entryBytes(inside.rows[1]!.id, other.rows[0]!.n);
  await takeChange(id, { path: picture.path, fileName: 'other.png', bytes });
  const build = await ended((await startBuild(id, 'keep')).id);
  expect(build.result).toMatchObject({ started: true, files: [{ name: 'parcels.set' }] });
});

test('loose files lie under their seal: read plain, put back scrambled, and the game loads them', async () => {
  const { id, folder } = await openedGame('journal');
  const journal = archive(await gameAnswer(id), 'journal/journal.json');
  expect(journal).toMatchObject({ state: 'open', entryCount: 30, title: 'Sealed journal' });
  const read = async (path: string) => {
    const { archive: owner, n } = await findWinner(id, path);
    return (await entryBytes(owner, n)).bytes;
  };
  const second = await read('journal/sketches/sketch_02.png');
  expect(Buffer.from(second).toString('latin1', 1, 4)).toBe('PNG');
  await takeChange(id, { path: 'journal/sketches/sketch_03.png', fileName: 'a.png', bytes: second });
  const run = await ended((await startBuild(id, 'patch')).id);
  expect(run.result).toMatchObject({ started: true, files: [{ name: 'journal/sketches/sketch_03.png' }] });
  const [build] = await BuildModel.findAll({ where: { gameId: id } });
  const made = readFileSync(blobPath(build!.files[0]!.sha256));
  expect(made.equals(readFileSync(join(folder, 'journal/sketches/sketch_02.png')))).toBe(true);
  // A loose file that changes makes the folder new to the next scan.
  writeFileSync(join(folder, 'journal/pages/page_01.json'), '{"day":1,"sketches":[]}');
  expect((await scanned(id)).lastScan!.news).toMatchObject({ gone: [], added: [] });
  expect(Buffer.from(await read('journal/pages/page_01.json')).toString()).toBe('{"day":1,"sketches":[]}');
});

test('what lies in a file no recipe knows is viewed, taken out, and put back where there is room', async () => {
  const { id, folder } = await openedGame('unknown');
  await settled(id);
  const level = archive(await gameAnswer(id), 'valley.lvl');
  expect(level).toMatchObject({ state: 'unknown', found: { kinds: { picture: 24, sound: 1, words: 1 } } });
  const { rows } = await listEntries(id, entryQuery.parse({ archive: String(level.id) }));
  const route = rows.find(({ kind }) => kind === 'words')!;
  expect(Buffer.from((await entryBytes(level.id, route.n)).bytes).toString()).toMatch(/^The route of the valley line/);
  const picture = rows.find(({ kind }) => kind === 'picture')!;
  const create = { width: 64, height: 64, channels: 4, background: '#204060' } as const;
  const plain = await sharp({ create }).png().toBuffer();
  await takeChange(id, { path: picture.path, fileName: 'x.png', bytes: plain });
  const run = await ended((await startBuild(id, 'patch')).id);
  expect(run.result).toMatchObject({ started: true, files: [{ name: 'valley.lvl' }] });
  const [build] = await BuildModel.findAll({ where: { gameId: id } });
  const [before, after] = [join(folder, 'valley.lvl'), blobPath(build!.files[0]!.sha256)].map((file) =>
    readFileSync(file),
  );
  expect(after!.length).toBe(before!.length);
  const differs = [...before!.keys()].filter((at) => before![at] !== after![at]);
  const { at, stored } = await entryDetails(id, level.id, picture.n);
  expect(differs.every((place) => place >= at && place < at + stored)).toBe(true);
  expect(differs.length).toBeGreaterThan(100);
  // What takes more room than it had, and what is packed, say so.
  const noise = await sharp({ create: { ...create, noise: { type: 'gaussian', mean: 128, sigma: 90 } } })
    .png()
    .toBuffer();
  await takeChange(id, { path: picture.path, fileName: 'y.png', bytes: noise });
  expect(await ended((await startBuild(id, 'keep')).id)).toMatchObject({
    state: 'failed',
    fault: { code: 'limit-reached', entry: picture.path },
  });
  await takeChange(id, { path: picture.path, fileName: 'x.png', bytes: plain });
  await takeChange(id, { path: route.path, fileName: 'r.txt', bytes: Buffer.from('nowhere') });
  expect(await ended((await startBuild(id, 'keep')).id)).toMatchObject({
    state: 'failed',
    fault: { code: 'no-recipe', file: 'valley.lvl' },
  });
});

test('nested, loose, found and nameless entries go out like all others', async () => {
  const { id } = await openedGame('taken-out');
  await settled(id);
  const game = await gameAnswer(id);
  const { rows } = await listEntries(
    id,
    entryQuery.parse({ archive: String(archive(game, 'world.idx').id), search: 'kind:picture' }),
  );
  const paths = [
    'parcel_01.parcel/contents.json',
    'journal/sketches/sketch_02.png',
    'valley.lvl/pictures/00002112.png',
    rows[0]!.path,
  ];
  await editTray(id, { add: paths, remove: [], clear: false });
  const out = join(games, 'all-kinds-out');
  rmSync(out, { recursive: true, force: true });
  const run = await ended((await startTakeOut(id, { to: out, layout: 'folders', form: 'open' })).id);
  expect(run.result).toMatchObject({ taken: 4, failures: [] });
  for (const path of paths.slice(1)) expect(readFileSync(join(out, path)).toString('latin1', 1, 4)).toBe('PNG');
});

test('a profile with something wrong in it changes nothing', async () => {
  const { id } = await openedGame('bad-profile');
  const profile = await exportProfile(id);
  const before = await listRecipes();
  const settings = { ...profile.settings, loadOrder: { by: 'number' as const } };
  const [first] = profile.recipes;
  const newer = { ...first!, revision: 99, text: first!.text.replace(/^revision: .*$/m, 'revision: 99') };
  const broken = { id: 'broken', revision: 1, text: 'recipe: broken' };
  const wrong = { ...profile, settings, recipes: [newer, broken] };
  expect(await fault(importProfile(id, wrong))).toMatchObject({ code: 'recipe-invalid' });
  const endless = {
    name: 'x',
    kind: 'pattern' as const,
    text: JSON.stringify({ pattern: '{a-z}'.repeat(9), words: {} }),
  };
  expect(await fault(importProfile(id, { ...profile, settings, nameLists: [endless] }))).toMatchObject({
    code: 'limit-reached',
  });
  expect(await listRecipes()).toEqual(before);
  expect((await gameAnswer(id)).loadOrder.by).toBe('name');
});

test('a list names entries in all archives, a profile carries it to another game without keys', async () => {
  const { id } = await openedGame('named');
  await settled(id);
  const list = 'hash,path\n,world/valley/whole.height\n,world/summit/places.json\n';
  await ended((await addNameList(id, 'found.csv', once(list))).id);
  await settled(id);
  const game = await gameAnswer(id);
  expect(archive(game, 'world.idx')).toMatchObject({ named: 2, entryCount: 222 });
  expect((await listEntries(id, entryQuery.parse({ search: 'world/valley/whole.height' }))).total).toBe(1);
  await changeLoadOrder(id, { loadOrder: { by: 'suffix', suffixes: ['-spring'] } });
  const profile = JSON.parse(JSON.stringify(await exportProfile(id))) as { settings: object; nameLists: unknown[] };
  expect(profile.nameLists).toHaveLength(1);
  const key = gameKey('1.4.1', 'content');
  for (const form of ['hex', 'base64'] as const) expect(JSON.stringify(profile)).not.toContain(key.toString(form));
  const other = await openedGame('named-too');
  await settled(other.id);
  await importProfile(other.id, profile);
  await settled(other.id);
  const taken = await gameAnswer(other.id);
  expect(archive(taken, 'world.idx').named).toBe(2);
  expect(taken.loadOrder).toEqual({ by: 'suffix', suffixes: ['-spring'] });
  expect(await fault(changeLoadOrder(id, { loadOrder: { by: 'list', file: 'no.txt' } }))).toMatchObject({
    code: 'not-found',
  });
  expect((await gameAnswer(id)).loadOrder.by).toBe('suffix');
});

test('keys in a file that is sent are found and never shown; a key that goes locks again what it opened', async () => {
  const { id } = await openedGame('searched');
  await settled(id);
  const voices = gameKey('1.4.1', 'voices');
  const noise = Buffer.alloc(20_000, 'not a key at all; ');
  const sent = Buffer.concat([noise, Buffer.from(voices.toString('hex')), noise]);
  const run = await ended((await searchSentFile(id, 'notes.txt', once(sent))).id);
  expect(run.result).toMatchObject({
    found: [{ archive: 'voices.cue', slot: 'voices', written: 'hex', at: noise.length }],
    searched: ['scenes.reel', 'voices.cue', 'voices.de.cue', 'voices.fr.cue'],
  });
  await settled(id);
  const game = await gameAnswer(id);
  expect(archive(game, 'voices.fr.cue').state).toBe('open');
  const told = JSON.stringify([game, await RunModel.findAll({ where: { gameId: id } })]);
  for (const form of ['hex', 'base64'] as const) expect(told).not.toContain(voices.toString(form));
  await removeKey(id, game.keys.find(({ kind }) => kind === 'bytes(8)')!.id);
  expect(archive(await gameAnswer(id), 'voices.fr.cue')).toMatchObject({ state: 'locked', entryCount: 0 });
});

test('a repeating XOR is solved from the start of a picture, and kept without being shown', async () => {
  const folder = join(games, 'xor');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder);
  freshGame(join(games, 'xor-source'));
  const sealed = readFileSync(join(games, 'xor-source/journal/sketches/sketch_02.png'));
  writeFileSync(join(folder, 'sketch.bin'), sealed);
  const { game, run } = await addGame({ folder });
  await ended(run.id);
  const [file] = (await gameAnswer(game.id)).archives;
  // Signature and the first chunk: sixteen bytes that every PNG begins with, and the size of an icon.
  const hex = '89504e470d0a1a0a0000000d494844520000004000000040';
  const solved = await solveXorOf(game.id, file!.id, { hex, at: 0 });
  expect(solved.solutions).toMatchObject([{ period: 16, confirmed: 8, at: 0 }]);
  expect(solved.solutions[0]!.preview.startsWith(hex)).toBe(true);
  const kept = await solveXorOf(game.id, file!.id, { hex, at: 0, keep: 0 });
  expect(kept).toMatchObject({ kept: true, run: null });
  const seal = (JSON.parse(readFileSync(join(games, 'xor-source/journal/journal.json'), 'utf8')) as { seal: string })
    .seal;
  expect(JSON.stringify([kept, await gameAnswer(game.id)])).not.toContain(seal);
  expect(await KeyModel.count({ where: { gameId: game.id, kind: 'bytes(16)' } })).toBe(1);
});

test('a forgotten game keeps what was made for it, and other games are not disturbed', async () => {
  const { id, folder } = await openedGame('set-aside');
  const others = (await listGames()).filter((game) => game.id !== id);
  const picture = await findWinner(id, 'cabins/livery/cabin_01_blue.png');
  const { bytes } = await entryBytes(picture.archive, picture.n);
  await takeChange(id, { path: 'cabins/livery/cabin_02_moss.png', fileName: 'a.png', bytes });
  await forgetGame(id, true);
  expect((await listGames()).find((game) => game.id === id)!.forgottenAt).not.toBeNull();
  const { game, run } = await addGame({ folder });
  expect(game.id).toBe(id);
  await ended(run.id);
  expect(await listChanges(id)).toHaveLength(1);
  expect((await gameAnswer(id)).keys).toHaveLength(1);
  expect((await listGames()).filter((one) => one.id !== id)).toEqual(others);
});
