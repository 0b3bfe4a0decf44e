/** Disks that run full while something is written: nothing half written stays, and it goes on once there is room. */
import { execFileSync, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { cpSync, mkdirSync, readdirSync, rmSync, statfsSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import sharp from 'sharp';
import { writeHold } from '../../demo/archives/hold';
import { gameKey } from '../../demo/make-game';
import { addIncomingFile, listChanges, listIncomingFiles, newDrop, startBringIn } from '../../src/server/changes';
import { BuildModel, RunModel } from '../../src/server/database';
import { env } from '../../src/server/env';
import { addGame, addKey } from '../../src/server/games';
import { startBuild, startPutIn } from '../../src/server/put-back';
import { resumeRun } from '../../src/server/runs';
import { editTray, startTakeOut } from '../../src/server/take-out';
import { fingerprint } from './killed/game-facts';
import { ended, fault, freshGame, games, key, once, openedGame, settled, withWorker } from './support';

/** A file system of its own below a folder. @returns false where this user may mount none */
function mountSmall(folder: string, bytes: number): boolean {
  mkdirSync(folder, { recursive: true });
  return spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${bytes}`, 'zero-latch-test', folder]).status === 0;
}

/** At once for who looks again; the worker may still hold archives open. */
const unmount = (folder: string) => execFileSync('umount', ['-l', folder]);

/** Fills it to the last byte. @returns the file to remove again */
function fill(folder: string): string {
  const file = join(folder, 'filler');
  const piece = Buffer.alloc(64 << 10);
  for (let i = 0; ; i++) {
    try {
      writeFileSync(file, piece, { flag: 'a' });
    } catch {
      break;
    }
  }
  return file;
}

const freeOf = (folder: string) => {
  const { bavail, bsize } = statfsSync(folder);
  return bavail * bsize;
};

const probe = join(games, 'may-mount');
const mayMount = mountSmall(probe, 1 << 20);
if (mayMount) unmount(probe);
else process.stdout.write('This user may mount nothing: full disks are not tried.\n');
const tried = mayMount ? test : test.skip;

withWorker();

const filesOf = (folder: string) =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((file) => file.isFile() && file.name !== 'filler')
    .map((file) => join(file.parentPath, file.name));

tried('a folder that runs full keeps what was taken out whole, and resuming takes the rest', async () => {
  const folder = join(games, 'full-game');
  const out = join(games, 'full-out');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder);
  const size = 20_000;
  const entries = Array.from({ length: 1000 }, (_, i) => ({ path: `e${i}.bin`, bytes: Buffer.alloc(size, i) }));
  writeFileSync(
    join(folder, 'core.hold'),
    writeHold(entries, { key: gameKey('1.4.1', 'content'), release: 'full', built: 1 }),
  );
  const { game, run: scan } = await addGame({ folder });
  await ended(scan.id);
  await ended((await addKey(game.id, key)).id);
  await editTray(game.id, { add: [], addFolder: '', remove: [], clear: true });
  expect(mountSmall(out, 30 << 20)).toBe(true);
  try {
    const { id } = await startTakeOut(game.id, { to: out, layout: 'folders', form: 'open' });
    while (((await RunModel.findByPk(id, { attributes: ['done'] }))!.done ?? 0) === 0) await pause(5);
    const filler = fill(out);
    const run = await ended(id);
    expect(run).toMatchObject({ state: 'failed', fault: { code: 'disk-full' } });
    const there = filesOf(out);
    expect(there.length).toBeGreaterThan(0);
    expect(there.length).toBeLessThan(1000);
    // Whole ones alone: nothing under a temporary name, and nothing short.
    for (const file of there) expect({ file, size: statSync(file).size }).toEqual({ file, size });
    expect(there.filter((file) => file.endsWith('.part'))).toEqual([]);
    rmSync(filler);
    await resumeRun(id);
    expect((await ended(id)).state).toBe('done');
    expect(filesOf(out)).toHaveLength(1000);
    for (const file of filesOf(out)) expect(statSync(file).size).toBe(size);
  } finally {
    unmount(out);
  }
});

/** Copies the files of a folder that were written since then. */
function keptSince(since: number, from: string, to: string): void {
  mkdirSync(to, { recursive: true });
  cpSync(from, to, {
    recursive: true,
    preserveTimestamps: true,
    filter: (path) => statSync(path).isDirectory() || (statSync(path).mtimeMs >= since && !path.endsWith('filler')),
  });
}

/** A picture that does not pack: it is kept as a file, and not as a row. */
const noise = () =>
  sharp(randomBytes(256 * 256 * 4), { raw: { width: 256, height: 256, channels: 4 } })
    .png()
    .toBuffer();

tried('a home that runs full loses no change and leaves no build, and goes on once there is room', async () => {
  const begun = Date.now() - 1000;
  const { id, folder } = await openedGame('full-home');
  await settled(id);
  const { id: drop } = await newDrop(id);
  const send = async (name: string) => addIncomingFile(id, drop, { name, bytes: once(await noise()) });
  await send('cabins/livery/cabin_07_red.png');
  await ended((await startBringIn(id, drop)).id);
  const before = { changes: (await listChanges(id)).length, game: fingerprint(folder) };
  const blobs = join(env().home, 'blobs');
  const aside = `${blobs}-aside`;
  // What is kept from now on lies on the small disk, over the large one, with what this game has kept so far.
  keptSince(begun, blobs, aside);
  expect(mountSmall(blobs, 64 << 20)).toBe(true);
  try {
    keptSince(0, aside, blobs);
    const filler = fill(blobs);
    expect(freeOf(blobs)).toBeLessThan(64 << 10);
    expect(await fault(send('cabins/livery/cabin_08_sky.png'))).toMatchObject({ code: 'disk-full' });
    expect((await listIncomingFiles(id)).rows).toEqual([]);
    expect(await ended((await startBuild(id, 'keep')).id)).toMatchObject({
      state: 'failed',
      fault: { code: 'disk-full' },
    });
    expect(await BuildModel.count({ where: { gameId: id } })).toBe(0);
    expect(readdirSync(join(blobs, 'incoming'))).toEqual([]);
    expect({ changes: (await listChanges(id)).length, game: fingerprint(folder) }).toEqual(before);
    rmSync(filler);
    await send('cabins/livery/cabin_08_sky.png');
    await ended((await startBringIn(id, drop)).id);
    expect(await listChanges(id)).toHaveLength(before.changes + 1);
    expect(await ended((await startBuild(id, 'keep')).id)).toMatchObject({ state: 'done', result: { started: true } });
    keptSince(0, blobs, aside);
  } finally {
    unmount(blobs);
    keptSince(0, aside, blobs);
    rmSync(aside, { recursive: true });
  }
});

tried('a game whose disk is full takes no build, and is as it was', async () => {
  const folder = join(games, 'full-put');
  rmSync(folder, { recursive: true, force: true });
  expect(mountSmall(folder, 64 << 20)).toBe(true);
  try {
    freshGame(folder);
    const { game, run: scan } = await addGame({ folder });
    await ended(scan.id);
    await ended((await addKey(game.id, key)).id);
    await settled(game.id);
    const { id: drop } = await newDrop(game.id);
    await addIncomingFile(game.id, drop, { name: 'cabins/livery/cabin_07_red.png', bytes: once(await noise()) });
    await ended((await startBringIn(game.id, drop)).id);
    expect((await ended((await startBuild(game.id, 'keep')).id)).state).toBe('done');
    const [build] = await BuildModel.findAll({ where: { gameId: game.id } });
    const before = fingerprint(folder);
    const filler = fill(folder);
    const put = async () => ended((await startPutIn(game.id, build!.id)).id);
    expect(await put()).toMatchObject({ state: 'failed', fault: { code: 'disk-full' } });
    rmSync(filler);
    expect(fingerprint(folder)).toEqual(before);
    expect((await put()).state).toBe('done');
    expect(fingerprint(folder)).not.toEqual(before);
  } finally {
    unmount(folder);
  }
});
