/** What the home holds: what nothing refers to is collected, what a person made never is, and builds can be deleted. */
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, renameSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { BuildModel, ChangeModel, database, InstallModel, RunModel } from '../../src/server/database';
import { env } from '../../src/server/env';
import { addGame } from '../../src/server/games';
import { deleteBuild, measuredHome, startMeasure, startTidy } from '../../src/server/home';
import type { HomeAnswer } from '../../src/server/shapes';
import { blobPath, hasBlob, keepAll, keepBytes } from '../../src/server/storage';
import { ended, fault, games, withWorker } from './support';

withWorker();

const HOURS_AGO = new Date(Date.now() - 3 * 60 * 60 * 1000);
const age = (path: string) => utimesSync(path, HOURS_AGO, HOURS_AGO);

/** A blob of its own that was kept long ago. */
async function oldBlob(): Promise<{ sha256: string; size: number }> {
  const blob = await keepBytes(randomBytes(30_000));
  age(blobPath(blob.sha256));
  return blob;
}

async function emptyGame(name: string): Promise<number> {
  const folder = join(games, name);
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'read-me.txt'), 'nothing here');
  const { game, run } = await addGame({ folder });
  await ended(run.id);
  return game.id;
}

/** What the home holds, added up by the worker. */
async function measured(): Promise<HomeAnswer> {
  expect((await ended((await startMeasure()).id)).state).toBe('done');
  const { home, at } = await measuredHome();
  expect(at).not.toBeNull();
  return home!;
}

const tidied = async () => (await ended((await startTidy()).id)).state;

const changeOf = (gameId: number, path: string, blob: string) =>
  ChangeModel.create({ gameId, path, kind: 'bytes', blob, size: 1, fileName: path });

test('what nothing refers to is collected, and all else stays', async () => {
  const game = await emptyGame('home-collected');
  const unused = await oldBlob();
  const young = await keepBytes(randomBytes(20_000));
  const changed = await oldBlob();
  await changeOf(game, 'a.bin', changed.sha256);
  const undone = await oldBlob();
  await (await changeOf(game, 'b.bin', undone.sha256)).update({ undone: true });
  const based = await oldBlob();
  await (await changeOf(game, 'c.bin', changed.sha256)).update({ base: based.sha256 });
  const half = join(env().home, 'blobs', 'incoming', 'left-by-a-run-that-was-killed');
  mkdirSync(join(half, '..'), { recursive: true });
  writeFileSync(half, 'half');
  age(half);
  expect(await tidied()).toBe('done');
  expect(existsSync(blobPath(unused.sha256))).toBe(false);
  expect(existsSync(half)).toBe(false);
  for (const { sha256 } of [young, changed, undone, based]) expect(existsSync(blobPath(sha256))).toBe(true);
});

test('what a killed run had set apart and is in use goes back to its place', async () => {
  const game = await emptyGame('home-killed');
  const [used, unused] = [await oldBlob(), await oldBlob()];
  await changeOf(game, 'a.bin', used.sha256);
  const leaving = join(env().home, 'blobs', 'leaving');
  mkdirSync(leaving, { recursive: true });
  for (const { sha256 } of [used, unused]) renameSync(blobPath(sha256), join(leaving, sha256));
  expect(await tidied()).toBe('done');
  expect(existsSync(blobPath(used.sha256))).toBe(true);
  expect(readdirSync(leaving)).toEqual([]);
});

test('small things are collected like large ones', async () => {
  const game = await emptyGame('home-small');
  const [used, unused, young] = (await keepAll([randomBytes(20), randomBytes(20), randomBytes(20)])).map(
    ({ sha256 }) => sha256,
  ) as [string, string, string];
  await changeOf(game, 'small.bin', used);
  await database().query(
    `update small_blobs set kept_at = now() - interval '3 hours' where sha256 = any($1::bytea[])`,
    {
      bind: [[used, unused].map((sha256) => Buffer.from(sha256, 'hex'))],
    },
  );
  expect(await tidied()).toBe('done');
  expect(await Promise.all([used, unused, young].map(hasBlob))).toEqual([true, false, true]);
});

test('what is kept again is not collected, though no row refers to it yet', async () => {
  const bytes = randomBytes(30_000);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  await keepBytes(bytes);
  age(blobPath(sha256));
  await keepBytes(bytes);
  expect(await tidied()).toBe('done');
  expect(existsSync(blobPath(sha256))).toBe(true);
});

test('a build is deleted when it is in no game, and frees what only it holds', async () => {
  const game = await emptyGame('home-builds');
  const [own, shared] = [await oldBlob(), await oldBlob()];
  const build = (number: number, blobs: readonly { sha256: string; size: number }[]) =>
    BuildModel.create({
      ...{ gameId: game, number, how: 'keep', proof: null, report: null },
      files: blobs.map(({ sha256, size }, i) => ({ name: `${i}.bin`, size, sha256 })),
    });
  const first = await build(1, [own, shared]);
  const second = await build(2, [shared]);
  const install = await InstallModel.create({ gameId: game, buildId: first.id, state: 'in', files: [] });
  const mine = async () => (await measured()).builds.filter((one) => one.game.id === game);
  expect(await mine()).toMatchObject([
    { number: 2, bytes: 30_000, frees: 0, isIn: false },
    { number: 1, bytes: 60_000, frees: 30_000, isIn: true },
  ]);
  expect(await fault(deleteBuild(game, first.id))).toMatchObject({
    code: 'conflict',
    what: 'build 1 is in the game, or on its way there',
  });
  // The original of a file that was left as something else wrote it is nowhere else.
  await install.update({ state: 'out', leftAlone: ['0.bin'] });
  expect(await fault(deleteBuild(game, first.id))).toMatchObject({
    code: 'conflict',
    what: expect.stringContaining('0.bin'),
  });
  await install.update({ leftAlone: [] });
  const run = await RunModel.create({ gameId: game, kind: 'put-in', title: 'later', input: { build: first.id } });
  expect(await fault(deleteBuild(game, first.id))).toMatchObject({ code: 'conflict' });
  await run.destroy();
  await deleteBuild(game, first.id);
  expect(await fault(deleteBuild(game, first.id))).toMatchObject({ code: 'not-found' });
  expect(await mine()).toMatchObject([{ number: 2, frees: 30_000 }]);
  expect(await tidied()).toBe('done');
  expect([own, shared].map(({ sha256 }) => existsSync(blobPath(sha256)))).toEqual([false, true]);
  await deleteBuild(game, second.id);
  expect(await tidied()).toBe('done');
  expect(existsSync(blobPath(shared.sha256))).toBe(false);
});

test('the parts of the home are told with their sizes, and what each would free', async () => {
  const unused = await oldBlob();
  const { home, free, parts } = await measured();
  expect(home).toBe(env().home);
  expect(free).toBeGreaterThan(0);
  const blobs = parts.find(({ id }) => id === 'blobs')!;
  expect(blobs.frees).toBeGreaterThanOrEqual(unused.size);
  expect(blobs.bytes).toBeGreaterThanOrEqual(blobs.frees);
  for (const { bytes, frees } of parts) expect(frees).toBeLessThanOrEqual(bytes);
});
