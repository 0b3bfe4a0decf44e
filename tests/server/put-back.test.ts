/** Putting back: every way to build, in and out of the folder byte for byte whatever happens, and after an update. */
import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import {
  addIncomingFile,
  addEntry,
  editChange,
  listChanges,
  listIncomingFiles,
  newDrop,
  placeIncomingFile,
  removeEntry,
  startBringIn,
  startRenew,
} from '../../src/server/changes';
import { BuildModel, InstallModel } from '../../src/server/database';
import { listPaths } from '../../src/server/entries';
import { entryBytes, findWinner } from '../../src/server/content';
import { env } from '../../src/server/env';
import { addGame, addKey, changeTestRules, gameAnswer } from '../../src/server/games';
import {
  putBackAnswer,
  putInRun,
  recoverInstalls,
  startBuild,
  startPutIn,
  startTakeBack,
  startEstimate,
} from '../../src/server/put-back';
import { saveRoutine, startRoutine } from '../../src/server/routines';
import { resumeRun, startRun } from '../../src/server/runs';
import { entryPlace, HOWS, type How } from '../../src/server/shapes';
import { demoAsMade, ended, fault, freshGame, games, key, openedGame, settled, withWorker, once } from './support';
import { bytesOfChange } from './subjects';

const held = withWorker();

const LIVERY = 'cabins/livery/cabin_07_red.png';
const WORDS = 'words/en/captions.txt';

const bytesOf = async (id: number, path: string) => {
  const { archive, n } = await findWinner(id, path);
  return (await entryBytes(archive, n)).bytes;
};

async function change(id: number, path: string, bytes: Uint8Array): Promise<void> {
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: path, path, bytes: once(bytes) });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 1 });
}

const painted = (background: string) =>
  sharp({ create: { width: 256, height: 256, channels: 4, background } })
    .png()
    .toBuffer();

const linesFor = async (id: number) =>
  Buffer.from(
    Buffer.from(await bytesOf(id, WORDS))
      .toString()
      .replace('Mind the doors', 'Mind the cows'),
  );

const livery = async (id: number) =>
  (await listPaths(id, { place: entryPlace.parse({ folder: 'cabins/livery' }) })).paths;

/** Every file of a folder with its hash. */
function fingerprint(folder: string): Record<string, string> {
  const files = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((file) => file.isFile());
  return Object.fromEntries(
    files
      .map((file) => join(file.parentPath, file.name))
      .sort()
      .map((path) => [path, createHash('sha256').update(readFileSync(path)).digest('hex')]),
  );
}

async function built(id: number, how: How) {
  const run = await ended((await startBuild(id, how)).id);
  expect(run).toMatchObject({ state: 'done' });
  const { builds } = await putBackAnswer(id);
  return builds[0]!;
}

describe('a game with changes of every kind', () => {
  let id: number;
  let folder: string;
  beforeAll(async () => {
    ({ id, folder } = await openedGame('put-back'));
    await settled(id);
    await change(id, LIVERY, await painted('#2060c0'));
    await change(id, WORDS, await linesFor(id));
    await removeEntry(
      id,
      (await livery(id)).find((path) => path.startsWith('cabins/livery/cabin_12'))!,
    );
    await addEntry(id, {
      ...{ path: 'cabins/livery/my_own.png', into: 'core.hold', name: 'my_own.png' },
      bytes: once(await painted('#c06020')),
    });
  });

  test('says before what each way would write, and each way writes just that and starts', async () => {
    const refused = await ended((await startEstimate(id)).id);
    expect(refused.state).toBe('done');
    const { ways: answer } = await putBackAnswer(id);
    const { ways, archives } = answer!;
    expect(ways.map(({ how }) => how)).toEqual([...HOWS]);
    expect(archives).toEqual(['core.hold']);
    // Which change is in the way, and in which archive: it can be built another way, or the change undone.
    const removed = (await listChanges(id)).find(({ action }) => action === 'remove')!;
    expect(ways.map(({ how, refusals }) => [how, refusals])).toEqual(
      HOWS.map((how) => [
        how,
        how === 'loose'
          ? [
              {
                archive: 'core.hold',
                entry: removed.path,
                fault: expect.objectContaining({ what: expect.stringMatching(/cannot say that an entry is gone/) }),
              },
            ]
          : [],
      ]),
    );
    for (const how of HOWS.filter((one) => one !== 'loose')) {
      const build = await built(id, how);
      const way = ways.find((one) => one.how === how)!;
      expect(build.files.map(({ name }) => name)).toEqual(way.files);
      expect(build.files.reduce((sum, { size }) => sum + size, 0)).toBe(way.bytes);
      expect(build.report).toMatchObject({ by: 'stand-in', started: true, findings: [] });
      expect(build.report!.scene).toMatchObject({ caption: 'Mind the cows, please.' });
      expect(build.proof).toMatchObject({ identical: true });
    }
    // What does not go one way may go another, archive by archive; a build that is repeated remembers.
    expect(await ended((await startBuild(id, 'loose')).id)).toMatchObject({
      state: 'failed',
      fault: { entry: removed.path, what: expect.stringMatching(/cannot say that an entry is gone/) },
    });
    const mixed = await ended((await startBuild(id, 'loose', { archives: { 'core.hold': 'patch' } })).id);
    expect(mixed).toMatchObject({ state: 'done', result: { files: [{ name: 'zz-my-core.hold' }], started: true } });
    expect((await putBackAnswer(id)).builds[0]).toMatchObject({ how: 'loose', archives: { 'core.hold': 'patch' } });
    // What was worked out is for these changes alone.
    const [added] = (await listChanges(id)).filter(({ action }) => action === 'add');
    await editChange(id, added!.id, { undone: true });
    expect((await putBackAnswer(id)).ways).toBeNull();
    await editChange(id, added!.id, { undone: false });
  });

  test('lays loose files beside the game, and the game takes them', async () => {
    const removal = (await listChanges(id)).find(({ action }) => action === 'remove')!;
    await editChange(id, removal.id, { undone: true });
    const build = await built(id, 'loose');
    expect(build.files.map(({ name }) => name)).toEqual([LIVERY, WORDS, 'cabins/livery/my_own.png']);
    expect(build.report!.scene).toMatchObject({ livery: { from: LIVERY }, caption: 'Mind the cows, please.' });
    const before = fingerprint(folder);
    // A link that leads out of what the server may touch is followed nowhere.
    const outside = mkdtempSync(join(tmpdir(), 'zero-latch-outside-'));
    symlinkSync(outside, join(folder, 'cabins'));
    expect(await ended((await startPutIn(id, build.id)).id)).toMatchObject({
      state: 'failed',
      fault: { code: 'not-allowed' },
    });
    expect(readdirSync(outside)).toEqual([]);
    rmSync(join(folder, 'cabins'));
    rmSync(outside, { recursive: true });
    expect(fingerprint(folder)).toEqual(before);
    expect((await ended((await startPutIn(id, build.id)).id)).state).toBe('done');
    expect(readFileSync(join(folder, WORDS), 'utf8')).toContain('Mind the cows');
    const [install] = (await putBackAnswer(id)).installs;
    expect((await ended((await startTakeBack(id, install!.id, false)).id)).state).toBe('done');
    expect(fingerprint(folder)).toEqual(before);
    // Nor are the folders left that were made for them.
    expect(existsSync(join(folder, 'cabins'))).toBe(false);
    await editChange(id, removal.id, { undone: false });
  });

  test('a build of before is built again, whatever has changed since', async () => {
    const first = await built(id, 'patch');
    const words = (await listChanges(id)).find(({ path }) => path === WORDS)!;
    await editChange(id, words.id, { undone: true });
    const without = await built(id, 'patch');
    expect(without.report!.scene).toMatchObject({ caption: 'Mind the doors, please.' });
    const run = await ended((await startBuild(id, 'patch', { again: first.id })).id);
    expect(run.state).toBe('done');
    const [again] = (await putBackAnswer(id)).builds;
    expect(again!.files).toEqual(first.files);
    await editChange(id, words.id, { undone: false });
  });

  test('what is new must be new, have a path and an archive to go into', async () => {
    const order = { into: 'core.hold', name: 'a.png' };
    const add = (more: object) => addEntry(id, { path: 'a.png', ...order, ...more, bytes: once(Buffer.from('x')) });
    expect(await fault(add({ path: LIVERY }))).toMatchObject({ code: 'conflict' });
    expect(await fault(add({ into: 'nowhere.hold' }))).toMatchObject({ code: 'not-found' });
    expect(await fault(removeEntry(id, 'no/such.png'))).toMatchObject({ code: 'no-such-entry' });
  });

  test('killed at any step of putting in or taking out, the next start puts it right', async () => {
    const build = await built(id, 'keep');
    const before = fingerprint(folder);
    held.worker!.kill('SIGSTOP');
    const dead = (order: object) =>
      new Promise<string[]>((resolve) => {
        const child = join(env().checkout, '.zero-latch/programs/killed-child.cjs');
        const text = JSON.stringify({ gameId: id, ...order });
        execFile(process.execPath, [child, text], { cwd: env().checkout }, (_, stdout) =>
          resolve(stdout.trim().split('\n')),
        );
      });
    const recovered = async () => {
      const said: string[] = [];
      await recoverInstalls((text) => said.push(text));
      return said;
    };
    const reached: string[] = [];
    for (let kill = 0; ; kill++) {
      const steps = await dead({ kill, input: { build: build.id } });
      reached.push(steps.at(-1)!);
      const [install] = await InstallModel.findAll({ where: { gameId: id }, order: [['id', 'DESC']], limit: 1 });
      if (install?.state === 'in') break;
      await recovered();
      expect(fingerprint(folder)).toEqual(before);
    }
    expect(reached).toEqual(['kept core.hold', 'journal', 'staged core.hold', 'placed core.hold', 'verified', 'in']);
    const after = fingerprint(folder);
    expect(after).not.toEqual(before);
    for (let kill = 0; ; kill++) {
      const [install] = await InstallModel.findAll({ where: { gameId: id, state: 'in' } });
      const steps = await dead({ kill, input: { install: install!.id, leave: false } });
      await recovered();
      expect(fingerprint(folder)).toEqual(before);
      expect((await install!.reload()).state).toBe('out');
      if (steps.at(-1) === 'out') break;
      await putInRun({
        ...{ runId: 0, gameId: id, input: { build: build.id }, signal: new AbortController().signal },
        progress: () => {},
        log: () => {},
        afterwards: () => {},
      });
      expect(fingerprint(folder)).toEqual(after);
    }
  });

  // The worker goes on whatever became of the test: others need it.
  afterEach(() => void held.worker!.kill('SIGCONT'));

  test('a folder that may not be written, or has changed, is said before anything is touched', async () => {
    const [build] = (await putBackAnswer(id)).builds;
    const before = fingerprint(folder);
    const core = readFileSync(join(folder, 'core.hold'));
    writeFileSync(join(folder, 'core.hold'), Buffer.concat([core, Buffer.from('!')]));
    expect(await ended((await startPutIn(id, build!.id)).id)).toMatchObject({
      state: 'failed',
      fault: { code: 'conflict', what: 'the file has changed since the last scan' },
    });
    cpSync(join(demoAsMade('1.4.1'), 'core.hold'), join(folder, 'core.hold'), { preserveTimestamps: true });
    expect(fingerprint(folder)).toEqual(before);
    if (process.getuid!() !== 0) {
      chmodSync(folder, 0o555);
      const run = await ended((await startPutIn(id, build!.id)).id);
      chmodSync(folder, 0o755);
      expect(run).toMatchObject({ state: 'failed', fault: { code: 'not-allowed' } });
    }
    expect(fingerprint(folder)).toEqual(before);
    await ended((await startRun('scan', { title: 'scan', gameId: id, input: {} })).id);
  });
});

/** The game's updater: every file of the next build over the ones that are there. */
function update(folder: string): void {
  const next = demoAsMade('1.4.2');
  for (const file of readdirSync(next, { recursive: true, withFileTypes: true })) {
    if (!file.isFile()) continue;
    const from = join(file.parentPath, file.name);
    const to = join(folder, from.slice(next.length + 1));
    mkdirSync(join(to, '..'), { recursive: true });
    if (existsSync(to) && Buffer.compare(readFileSync(from), readFileSync(to)) === 0) continue;
    rmSync(to, { force: true });
    cpSync(from, to);
  }
}

test('the game is updated under a build: what fits, what the game changed too, and all of it built anew', async () => {
  const { id, folder } = await openedGame('updated');
  await settled(id);
  await change(id, LIVERY, await painted('#2060c0'));
  await change(id, WORDS, await linesFor(id));
  // The next build has another one of this.
  const both = (await livery(id)).find((path) => path.startsWith('cabins/livery/cabin_04'))!;
  await change(id, both, await painted('#104020'));
  const theirs = await bytesOf(id, both);
  const build = await built(id, 'keep');
  expect((await ended((await startPutIn(id, build.id)).id)).state).toBe('done');
  const [install] = (await putBackAnswer(id)).installs;
  expect(install!.seen).toEqual([{ name: 'core.hold', is: 'ours' }]);
  update(folder);
  const seen = (await putBackAnswer(id)).installs[0]!.seen;
  expect(seen).toEqual([{ name: 'core.hold', is: 'other' }]);
  // The updater's file is not lost, and there is a way on.
  expect(await ended((await startTakeBack(id, install!.id, false)).id)).toMatchObject({
    state: 'failed',
    fault: { code: 'conflict' },
  });
  const updated = fingerprint(folder);
  expect((await ended((await startTakeBack(id, install!.id, true)).id)).result).toMatchObject({ left: ['core.hold'] });
  expect(fingerprint(folder)).toEqual(updated);

  await ended((await startRun('scan', { title: 'scan', gameId: id, input: {} })).id);
  await ended((await addKey(id, gameKey('1.4.2', 'content').toString('hex'))).id);
  await ended((await startRun('rebase', { title: 'rebase', gameId: id, input: {} })).id);
  expect((await gameAnswer(id)).build).toBe('1.4.2');
  const status = Object.fromEntries((await listChanges(id)).map(({ path, status }) => [path, status]));
  expect(status).toEqual({ [LIVERY]: 'fits', [WORDS]: 'fits', [both]: 'changed' });
  const changed = (await listChanges(id)).find(({ path }) => path === both)!;
  expect(Buffer.compare(await bytesOfChange(id, changed.id, 'base'), theirs)).toBe(0);
  expect(Buffer.compare(await bytesOf(id, both), theirs)).not.toBe(0);

  const renewed = await ended((await startRenew(id)).id);
  expect(renewed).toMatchObject({ state: 'done', result: { started: true } });
  expect((await listChanges(id)).filter(({ undone }) => !undone).map(({ status }) => status)).toEqual([
    ...['fits', 'fits', 'fits'],
  ]);
  const [again] = (await putBackAnswer(id)).builds;
  expect(again).toMatchObject({ how: 'keep', report: { started: true } });
});

test('a game without a stand-in is checked by the rules set for it, and by a command of the server’s own', async () => {
  const folder = join(games, 'ruled');
  rmSync(folder, { recursive: true, force: true });
  freshGame(folder);
  rmSync(join(folder, 'gondola-post.bin'));
  const { game, run } = await addGame({ folder });
  const { id } = game;
  await ended(run.id);
  await ended((await addKey(id, key)).id);
  await settled(id);
  await change(id, LIVERY, await painted('#2060c0'));
  await change(id, 'models/cabin/cabin_colour.tex', await painted('#306090'));
  const colour = { rule: 'packing' as const, paths: '*_colour.tex', one: ['bc7'] };
  await changeTestRules(id, { rules: [colour, { rule: 'name', paths: '*', most: 12 }] });
  expect((await built(id, 'patch')).report).toMatchObject({
    by: 'rules',
    started: false,
    findings: [
      { code: 'NAME', file: LIVERY, found: 'cabin_07_red.png' },
      { code: 'PACKING', file: 'models/cabin/cabin_colour.tex', found: 'BC1' },
      { code: 'NAME', file: 'models/cabin/cabin_colour.tex' },
      { code: 'NAME', file: 'models/cabin/cabin_colour.texfar' },
    ],
  });
  expect(await fault(startPutIn(id, (await putBackAnswer(id)).builds[0]!.id))).toMatchObject({ code: 'conflict' });
  await changeTestRules(id, { rules: [{ rule: 'powers-of-two', paths: '*' }] });

  const config = join(env().home, 'config.json');
  const command = (script: string, seconds = 20) =>
    writeFileSync(
      config,
      JSON.stringify({ testCommands: [{ game: folder, command: [process.execPath, '-e', script], seconds }] }),
    );
  try {
    command(
      'console.log(require("fs").readdirSync(process.env.ZERO_LATCH_BUILD).join(), process.env.DATABASE_URL, process.argv.length)',
    );
    const good = await built(id, 'patch');
    expect(good.report).toMatchObject({ started: true, command: { exit: 0, output: 'zz-my-core.hold undefined 1\n' } });
    command('console.error("no such texture"); process.exit(3)');
    expect((await built(id, 'patch')).report).toMatchObject({
      started: false,
      command: { exit: 3, output: 'no such texture\n' },
      findings: [{ code: 'COMMAND', found: '3' }],
    });
    command('setInterval(() => {}, 1000)', 1);
    expect((await built(id, 'patch')).report).toMatchObject({
      started: false,
      command: { exit: null },
      findings: [{ code: 'COMMAND-HANG' }],
    });
    writeFileSync(config, '{ "testCommands": [{ "game": 3 }] }');
    expect(await ended((await startBuild(id, 'patch')).id)).toMatchObject({
      state: 'failed',
      fault: { what: expect.stringContaining('testCommands.0.game') },
    });
  } finally {
    rmSync(config, { force: true });
  }
  expect(await BuildModel.count({ where: { gameId: id } })).toBe(4);
});

test('a routine brings back, builds, tests and puts in; it ends where a step fails', async () => {
  const { id, folder } = await openedGame('routine');
  await settled(id);
  const edited = join(games, 'routine-edited');
  rmSync(edited, { recursive: true, force: true });
  mkdirSync(join(edited, 'cabins/livery'), { recursive: true });
  writeFileSync(join(edited, LIVERY), await painted('#208040'));
  const steps = [{ do: 'bring-in', folder: edited }, { do: 'build', how: 'patch' }, { do: 'put-in' }] as const;
  const [routine] = await saveRoutine(id, { name: 'all of it', steps: [...steps] });
  for (const colour of ['#208040', '#802040']) {
    writeFileSync(join(edited, LIVERY), await painted(colour));
    expect((await ended((await startRoutine(id, routine!.id)).id)).state).toBe('done');
    expect(existsSync(join(folder, 'zz-my-core.hold'))).toBe(true);
  }
  // The second time the build of the first was taken out for the second.
  expect((await putBackAnswer(id)).installs.map(({ state, build }) => [state, build])).toEqual([
    ['in', 2],
    ['out', 1],
  ]);
  writeFileSync(join(edited, 'nobody-knows-this.png'), await painted('#000000'));
  const failed = await ended((await startRoutine(id, routine!.id)).id);
  expect(failed).toMatchObject({ state: 'failed', fault: { what: '1 of its files needs a decision' } });
  // Once someone has settled the file, the run is resumed, and what was settled stays.
  const [waiting] = (await listIncomingFiles(id)).rows;
  const blue = 'cabins/livery/cabin_01_blue.png';
  await placeIncomingFile(id, waiting!.drop, waiting!.id, blue);
  expect((await ended((await startBringIn(id, waiting!.drop)).id)).result).toMatchObject({ taken: 1 });
  const settledChange = (await listChanges(id)).find(({ path }) => path === blue)!;
  await resumeRun(failed.id);
  expect((await ended(failed.id)).state).toBe('done');
  expect((await listChanges(id)).find(({ path }) => path === blue)).toMatchObject({
    id: settledChange.id,
    undone: false,
  });
  expect(await fault(saveRoutine(id, { name: 'out', steps: [{ do: 'bring-in', folder: '/etc' }] }))).toMatchObject({
    code: 'not-allowed',
  });
});
