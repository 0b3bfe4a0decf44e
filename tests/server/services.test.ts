/** Services against a real database, a real worker and real files. `npm test` starts the database and sets the settings. */
import { sayFault, type Fault } from '../../src/core/faults';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { writeHold } from '../../demo/archives/hold';
import { writeSet } from '../../demo/archives/parcels';
import { gameKey } from '../../demo/make-game';
import {
  ArchiveModel,
  BuildModel,
  ChangeModel,
  database,
  InstallModel,
  KeyModel,
  migrate,
  ModModel,
  RunModel,
} from '../../src/server/database';
import { listEntries } from '../../src/server/entries';
import { env } from '../../src/server/env';
import { addGame, addKey, chooseRecipe, gameAnswer, memoizeByVersion } from '../../src/server/games';
import { recoverInstalls } from '../../src/server/put-back';
import { knownRecipes, listRecipes, saveRecipe } from '../../src/server/recipes';
import { listRuns, resumeRun, stopRun } from '../../src/server/runs';
import { entryQuery } from '../../src/server/shapes';
import {
  blobFile,
  blobPath,
  hasBlob,
  keepAll,
  keepBlob,
  openBlob,
  openSealed,
  readAll,
  readBlob,
  seal,
  underRoots,
} from '../../src/server/storage';
import { editTray, startTakeOut } from '../../src/server/take-out';
import { ended, fault, freshGame, games, key, openedGame, startWorker, withWorker } from './support';

const held = withWorker();

test('migrations that are done are not done again', async () => {
  expect(await migrate()).toEqual([]);
});

test('a sealed key opens again, and never stands in the database or in a run', async () => {
  expect(Buffer.from(openSealed(seal(Buffer.from('secret')))).toString()).toBe('secret');
  const { id } = await openedGame('sealed');
  const everything = JSON.stringify([
    await KeyModel.findAll({ where: { gameId: id } }),
    await listRuns(id),
    await gameAnswer(id),
  ]);
  const bytes = gameKey('1.4.1', 'content');
  for (const form of [key, bytes.toString('base64'), JSON.stringify([...bytes]).slice(1, -1)])
    expect(everything).not.toContain(form);
});

test('a key that fits nothing is not kept, and the run says which byte is wrong', async () => {
  const folder = join(games, 'wrong-key');
  freshGame(folder);
  const { game, run } = await addGame({ folder });
  await ended(run.id);
  const tried = await ended((await addKey(game.id, 'ab'.repeat(32))).id);
  const { refused } = tried.result as { refused: { fault: Fault }[] };
  expect(sayFault(refused[0]!.fault)).toMatch(/mark at 0x0 of the unlocked index should read/);
  expect(await KeyModel.count({ where: { gameId: game.id } })).toBe(0);
  expect(await fault(addKey(game.id, key.slice(0, 40)))).toMatchObject({ code: 'key-wrong', found: '20 bytes' });
});

test('a patch lays its entries over those before it, and its markers hide what is gone', async () => {
  const { id } = await openedGame('patched');
  const winners = async (search: string) => (await listEntries(id, entryQuery.parse({ search }))).rows;
  const [letter] = await winners('letters/sent/letter_06.txt');
  const patch = await ArchiveModel.findOne({ where: { gameId: id, path: 'core-spring.hold' } });
  expect(letter!.archive).toBe(patch!.id);
  expect(await winners('letters/sent/letter_02.txt')).toEqual([]);
  expect((await winners('letters/sent/letter_08.txt')).length).toBe(1);
});

test('a file that two recipes fit waits for a choice, and is read as chosen', async () => {
  const folder = join(games, 'unsure');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder);
  writeFileSync(join(folder, 'test.set'), writeSet([{ path: 'a.parcel', bytes: Buffer.from('a') }]));
  const other = readFileSync(join(env().checkout, 'recipes/parcel-set.yaml'), 'utf8')
    .replace('recipe: parcel-set', 'recipe: other-set')
    .replace('title: Parcel set', 'title: Other set');
  await saveRecipe(other);
  const { game, run } = await addGame({ folder });
  await ended(run.id);
  const [file] = (await gameAnswer(game.id)).archives;
  expect(file).toMatchObject({ state: 'unsure', entryCount: 0 });
  expect(file!.fits.map(({ title, reason }) => `${title}: ${reason}`)).toEqual([
    'Other set: “PSET” is at 0x0',
    'Parcel set: “PSET” is at 0x0',
  ]);
  expect(await fault(chooseRecipe(game.id, file!.id, 'hold-archive'))).toMatchObject({ code: 'conflict' });
  await ended((await chooseRecipe(game.id, file!.id, 'other-set')).id);
  expect((await gameAnswer(game.id)).archives[0]).toMatchObject({ state: 'open', recipe: 'other-set', entryCount: 1 });
  await database().query("delete from recipes where recipe = 'other-set'");
});

test('a kept revision that no longer compiles is told, and the one before it stands in', async () => {
  await database().query(
    "insert into recipes (recipe, revision, text) values ('parcel', 9, 'recipe: parcel\nrevision: 9')",
  );
  try {
    const listed = (await listRecipes()).find(({ id }) => id === 'parcel')!;
    expect(listed).toMatchObject({ revision: 9, text: 'recipe: parcel\nrevision: 9' });
    expect(listed.fault?.sentence).toMatch(/not right/);
    expect((await knownRecipes(0)).find(({ id }) => id === 'parcel')!.revision).toBe(3);
  } finally {
    await database().query("delete from recipes where recipe = 'parcel'");
  }
});

test('places outside of the roots, and links that lead there, are refused', async () => {
  const link = join(games, 'link');
  rmSync(link, { force: true });
  symlinkSync('/etc', link);
  expect(await fault(underRoots('/etc'))).toMatchObject({ code: 'not-allowed' });
  expect(await fault(underRoots(join(link, 'passwd')))).toMatchObject({ code: 'not-allowed' });
  expect(await fault(underRoots(join(games, '..', 'pg')))).toMatchObject({ code: 'not-allowed' });
  expect(await underRoots(join(games, 'not/there/yet'))).toBe(join(games, 'not/there/yet'));
});

test('blobs are named by their hash and kept once', async () => {
  const bytes = Buffer.from('kept once');
  const once = async function* () {
    yield bytes;
  };
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  expect(await keepBlob(once())).toEqual({ sha256, size: 9 });
  expect(await keepBlob(once())).toEqual({ sha256, size: 9 });
  expect(readdirSync(join(env().home, 'blobs/incoming'))).toEqual([]);
  expect(await fault(keepBlob(once(), { maxBytes: 4 }))).toMatchObject({ code: 'limit-reached' });
});

test('what is small lies in a row, what is large in a file, and nobody who reads them has to know', async () => {
  const [small, large] = [Buffer.from('Mind the doors'), Buffer.alloc(20_000, 'doors')];
  const [row, file] = await keepAll([small, large]);
  expect([existsSync(blobPath(row!.sha256)), existsSync(blobPath(file!.sha256))]).toEqual([false, true]);
  await keepAll([small, small]);
  for (const [{ sha256, size }, bytes] of [
    [row!, small],
    [file!, large],
  ] as const) {
    expect(size).toBe(bytes.length);
    expect(await hasBlob(sha256)).toBe(true);
    expect(await readBlob(sha256)).toEqual(bytes);
    const opened = await openBlob(sha256, 'a.txt');
    expect(Buffer.from(await opened.read(5, 3))).toEqual(bytes.subarray(5, 8));
    await opened.close();
  }
  expect([...(await readAll([row!.sha256, file!.sha256])).values()]).toEqual([small, large]);
  // A program that reads files gets one.
  expect(readFileSync(await blobFile(row!.sha256))).toEqual(small);
  const nowhere = 'ab'.repeat(32);
  expect(await hasBlob(nowhere)).toBe(false);
  expect(await fault(readAll([nowhere]))).toMatchObject({ code: 'not-found' });
});

test('what is worked out of all changes is kept until one of them, or a mod, is another', async () => {
  const { id } = await openedGame('while-unchanged');
  let times = 0;
  const worked = () => memoizeByVersion(id, 'count', async () => ++times);
  const rows = ['a', 'b'].map((path) => ({ gameId: id, path, kind: 'words', blob: 'x', size: 1, fileName: path }));
  await ChangeModel.bulkCreate(rows);
  expect([await worked(), await worked()]).toEqual([1, 1]);
  // One undone and one brought back leaves all counts as they were.
  await ChangeModel.update({ undone: true }, { where: { gameId: id, path: 'a' } });
  expect(await worked()).toBe(2);
  await ChangeModel.update({ undone: true }, { where: { gameId: id, path: 'b' } });
  await ChangeModel.update({ undone: false }, { where: { gameId: id, path: 'a' } });
  expect([await worked(), await worked()]).toEqual([3, 3]);
  await ModModel.create({ gameId: id, name: 'One', file: 'x', position: 1 });
  expect(await worked()).toBe(4);
});

test('the search line finds by word, quote, minus, wildcard, kind and size', async () => {
  const { id } = await openedGame('search');
  const archive = (await ArchiveModel.findOne({ where: { gameId: id, path: 'core.hold' } }))!.id;
  const found = async (search: string) => (await listEntries(id, entryQuery.parse({ search, archive }))).total;
  expect(await found('')).toBe(319);
  expect(await found('cabin_07')).toBe(2);
  expect(await found('cabin_07 -snow')).toBe(1);
  expect(await found('"livery/winter"')).toBe(24);
  expect(await found('frame_0?.png')).toBe(9);
  expect(await found('stations/*.json')).toBe(16);
  expect(await found('kind:sound')).toBe(42);
  expect(await found('kind:sound size:>100kb')).toBe(await found('size:>100kb'));
  expect(await found('100%_\\')).toBe(0);
  expect(await found("'; drop table entries; --")).toBe(0);
  expect(await fault(listEntries(id, entryQuery.parse({ search: 'size:huge' })))).toMatchObject({
    code: 'invalid-request',
  });
});

test('a run whose worker is killed is interrupted, resumed, and takes no file twice', async () => {
  const folder = join(games, 'many');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder);
  const entries = Array.from({ length: 1500 }, (_, i) => ({
    path: `d${i % 40}/e${i}.bin`,
    bytes: Buffer.alloc(3000, i),
  }));
  writeFileSync(
    join(folder, 'core.hold'),
    writeHold(entries, { key: gameKey('1.4.1', 'content'), release: 'many', built: 1 }),
  );
  const { game, run } = await addGame({ folder });
  await ended(run.id);
  await ended((await addKey(game.id, key)).id);
  await editTray(game.id, { add: [], addFolder: '', remove: [], clear: false });
  const out = join(games, 'many-out');
  const { id } = await startTakeOut(game.id, { to: out, layout: 'folders', form: 'open' });
  const files = () => readdirSync(out, { recursive: true, withFileTypes: true }).filter((file) => file.isFile());
  for (let i = 0; i < 400; i++) {
    if (((await RunModel.findByPk(id))!.done ?? 0) > 0) break;
    await pause(20);
  }
  held.worker!.kill('SIGKILL');
  await pause(50);
  const early = files().filter((file) => !file.name.endsWith('.part')).length;
  expect(early).toBeGreaterThan(0);
  expect(early).toBeLessThan(1500);
  held.worker = await startWorker();
  expect((await ended(id, ['interrupted'])).state).toBe('interrupted');
  await resumeRun(id);
  const done = await ended(id);
  expect(done.result).toMatchObject({ taken: 1500 - early, skipped: early, failures: [] });
  expect(files().length).toBe(1500);
  for (const file of files()) expect(statSync(join(file.parentPath, file.name)).size).toBe(3000);
});

test('a run can be stopped, and says so', async () => {
  held.worker!.kill('SIGSTOP');
  const game = (await gameAnswer((await ArchiveModel.findOne({ where: { state: 'open' } }))!.gameId)).id;
  await editTray(game, { add: [], addFolder: '', remove: [], clear: false });
  const { id } = await startTakeOut(game, { to: join(games, 'stopped-out'), layout: 'folders', form: 'open' });
  expect((await stopRun(id)).state).toBe('stopped');
  held.worker!.kill('SIGCONT');
  await pause(1500);
  expect((await RunModel.findByPk(id))!.state).toBe('stopped');
});

test('a crash while putting in or taking out is rolled back from the journal', async () => {
  const { id, folder } = await openedGame('crashed');
  const core = join(folder, 'core.hold');
  // The worker looks after half-done installs as well: here it must not be quicker than the test.
  held.worker!.kill('SIGSTOP');
  const original = readFileSync(core);
  const names = readdirSync(folder).sort();
  const kept = await keepBlob(
    (async function* () {
      yield original;
    })(),
  );
  const built = await keepBlob(
    (async function* () {
      yield Buffer.from('a build');
    })(),
  );
  const build = await BuildModel.create({
    gameId: id,
    number: 1,
    how: 'keep',
    files: [],
    proof: null,
    report: null,
  });
  for (const state of ['putting-in', 'taking-out'] as const) {
    // As after a crash behind the first rename: one file replaced, one new one there.
    writeFileSync(core, 'a build');
    writeFileSync(join(folder, 'zz-my-core.hold'), 'a build');
    const file = { size: 7, sha256: built.sha256, originalModified: statSync(core).mtimeMs };
    await InstallModel.create({
      gameId: id,
      buildId: build.id,
      state,
      files: [
        { ...file, name: 'core.hold', original: kept.sha256, originalSize: original.length },
        { ...file, name: 'zz-my-core.hold', original: null, originalSize: 0 },
      ],
    });
    const said: string[] = [];
    // Another worker may be at it this moment: then it is none of ours.
    const kind = state === 'putting-in' ? 'put-in' : 'take-back';
    const living = await RunModel.create({
      gameId: id,
      kind,
      title: kind,
      state: 'working',
      input: {},
      heartbeat: new Date(),
    });
    await recoverInstalls((text) => said.push(text));
    expect(said).toEqual([]);
    expect(readFileSync(core, 'utf8')).toBe('a build');
    await living.update({ state: 'interrupted' });
    await recoverInstalls((text) => said.push(text));
    expect(said.join()).toContain('rolled back');
    expect(Buffer.compare(readFileSync(core), original)).toBe(0);
    expect(readdirSync(folder).sort()).toEqual(names);
  }
  held.worker!.kill('SIGCONT');
});

test('a run that no queue holds is queued again: its worker died before it began, or the server before it was queued', async () => {
  const createdAt = new Date(Date.now() - 60_000);
  const run = await RunModel.create({ kind: 'measure', title: 'Lost', gameId: null, input: {}, createdAt });
  expect((await ended(run.id)).state).toBe('done');
  expect((await RunModel.findByPk(run.id))!.createdAt).toEqual(createdAt);
});
