/** Mod files: what is one's own goes into them, what is the game's does not, and they come in again elsewhere. */
import { createHash } from 'node:crypto';
import { createWriteStream, readFileSync, writeFileSync } from 'node:fs';
import { once as event } from 'node:events';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import {
  BlobWriter,
  TextReader,
  Uint8ArrayReader,
  ZipReader,
  ZipWriter,
  BlobReader,
  type FileEntry,
} from '@zip.js/zip.js';
import sharp from 'sharp';
import { MOD_MANIFEST, type ModFile } from '../../src/core/game';
import { addIncomingFile, addEntry, newDrop, removeEntry, startBringIn } from '../../src/server/changes';
import { ChangeModel } from '../../src/server/database';
import { listPaths } from '../../src/server/entries';
import { entryBytes, findWinner } from '../../src/server/content';
import { activeChanges } from '../../src/server/games';
import { agreeToMod, editMod, listMods, removeMod, sharedFile, startBringMod, startShare } from '../../src/server/mods';
import { putBackAnswer, startBuild } from '../../src/server/put-back';
import { entryPlace, shareOrder, type SharedFile } from '../../src/server/shapes';
import { blobPath } from '../../src/server/storage';
import { ended, fault, games, openedGame, settled, withWorker, once } from './support';

withWorker();

const LIVERY = 'cabins/livery/cabin_07_red.png';
const WORDS = 'words/en/captions.txt';

const bytesOf = async (id: number, path: string) => {
  const { archive, n } = await findWinner(id, path);
  return Buffer.from((await entryBytes(archive, n)).bytes);
};

async function change(id: number, path: string, bytes: Uint8Array): Promise<void> {
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: path, path, bytes: once(bytes) });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 1 });
}

const painted = (background: string, side = 256) =>
  sharp({ create: { width: side, height: side, channels: 4, background } })
    .png()
    .toBuffer();

async function shared(id: number, more: object = {}) {
  const order = shareOrder.parse({ name: 'Blue cabins', release: '2', author: 'somebody', licence: 'CC0', ...more });
  const run = await ended((await startShare(id, order)).id);
  return { run, files: (run.result as { files?: SharedFile[] } | null)?.files ?? [] };
}

const brought = async (id: number, bytes: Uint8Array, name = 'mod.zip') =>
  ended((await startBringMod(id, name, once(bytes))).id);

async function unzipped(bytes: Uint8Array): Promise<Map<string, Buffer>> {
  const zip = new ZipReader(new BlobReader(new Blob([bytes as BlobPart])), { useWebWorkers: false });
  const files = new Map<string, Buffer>();
  for (const entry of await zip.getEntries()) {
    const blob = await (entry as FileEntry).getData(new BlobWriter());
    files.set(entry.filename, Buffer.from(await blob.arrayBuffer()));
  }
  return files;
}

async function zipped(files: ReadonlyMap<string, Uint8Array | string>): Promise<Uint8Array> {
  const zip = new ZipWriter(new BlobWriter(), { useWebWorkers: false });
  for (const [name, bytes] of files)
    await zip.add(name, typeof bytes === 'string' ? new TextReader(bytes) : new Uint8ArrayReader(bytes));
  return new Uint8Array(await (await zip.close()).arrayBuffer());
}

let maker: number;
let mod: Uint8Array;
beforeAll(async () => {
  ({ id: maker } = await openedGame('mod-maker'));
  await settled(maker);
  await change(maker, LIVERY, await painted('#2060c0'));
  const words = (await bytesOf(maker, WORDS)).toString();
  await change(maker, WORDS, Buffer.from(words.replace('Mind the doors', 'Mind the cows')));
  await addEntry(maker, {
    ...{ path: 'cabins/livery/my_own.png', into: 'core.hold', name: 'my_own.png' },
    bytes: once(await painted('#c06020')),
  });
  await removeEntry(maker, 'ui/icons/icon_30.png');
});

test('what is one’s own goes whole, what is mostly the game’s as a difference, and the game’s own not at all', async () => {
  // Another picture of the game under a new name is the game's data all the same.
  const [, other] = (await listPaths(maker, { place: entryPlace.parse({ folder: 'cabins/frames' }) })).paths;
  await addEntry(maker, {
    ...{ path: 'cabins/livery/copied.png', into: 'core.hold', name: 'copied.png' },
    bytes: once(await bytesOf(maker, other!)),
  });
  const { run, files } = await shared(maker);
  expect(run.state).toBe('done');
  const as = Object.fromEntries(files.map(({ path, as }) => [path, as]));
  expect(as).toMatchObject({ [LIVERY]: 'whole', [WORDS]: 'difference', 'cabins/livery/my_own.png': 'whole' });
  expect(as['ui/icons/icon_30.png']).toBe('gone');
  expect(files.find(({ path }) => path === 'cabins/livery/copied.png')).toEqual({
    ...{ path: 'cabins/livery/copied.png', as: 'left out', bytes: 0 },
    reason: { code: 'share-copy', entry: other },
  });
  const { file, name } = await sharedFile(maker, run.id);
  expect(name).toBe('Blue cabins.zip');
  mod = readFileSync(file);
  const inside = await unzipped(mod);
  const manifest = JSON.parse(inside.get(MOD_MANIFEST)!.toString()) as ModFile;
  expect(manifest).toMatchObject({ format: 'zero-latch mod', game: { name: 'Mod Maker', build: '1.4.1' } });
  // The words as the game has them are in no file of it.
  const original = await bytesOf(maker, WORDS);
  for (const bytes of inside.values()) expect(bytes.includes(original.subarray(0, 200))).toBe(false);
  const without = await shared(maker, { differences: false });
  expect(without.files.find(({ path }) => path === WORDS)).toMatchObject({
    as: 'left out',
    reason: { code: 'share-mostly-game', percent: expect.any(Number) },
  });
});

test('a difference is plain VCDIFF, which any program for it applies', async () => {
  const inside = await unzipped(mod);
  const difference = inside.get(`differences/${WORDS}.vcdiff`)!;
  // RFC 3284: the magic, version 0, and no extension of any kind in the header.
  expect(difference.subarray(0, 5).toString('hex')).toBe('d6c3c40000');
  const work = join(games, 'vcdiff');
  writeFileSync(`${work}.before`, await bytesOf(maker, WORDS));
  writeFileSync(`${work}.diff`, difference);
  execFileSync('xdelta3', ['-d', '-f', '-s', `${work}.before`, `${work}.diff`, `${work}.after`]);
  expect(readFileSync(`${work}.after`, 'utf8')).toContain('Mind the cows');
});

test('two mods and one’s own: the later holds, one’s own over all, and each can be turned off', async () => {
  const { id } = await openedGame('mod-user');
  await settled(id);
  expect((await brought(id, mod)).result).toMatchObject({ name: 'Blue cabins', leftOut: 0 });
  // The same from someone else, in another colour.
  await ChangeModel.update({ undone: true }, { where: { gameId: maker } });
  await change(maker, LIVERY, await painted('#c02040'));
  const { run } = await shared(maker, { name: 'Red cabins' });
  const red = readFileSync((await sharedFile(maker, run.id)).file);
  expect((await brought(id, red)).state).toBe('done');
  const holds = async () => {
    const [one] = (await activeChanges(id)).filter(({ path }) => path === LIVERY);
    const pixel = await sharp(blobPath(one!.blob)).raw().toBuffer();
    return `#${pixel.subarray(0, 3).toString('hex')}`;
  };
  let { mods, conflicts } = await listMods(id);
  expect(mods.map(({ name, total }) => [name, total])).toEqual([
    ['Blue cabins', 4],
    ['Red cabins', 1],
  ]);
  expect(conflicts).toEqual([{ path: LIVERY, by: ['Blue cabins', 'Red cabins'], holds: 'Red cabins' }]);
  expect(await holds()).toBe('#c02040');
  ({ mods, conflicts } = await editMod(id, mods[0]!.id, { move: 'later' }));
  expect(conflicts[0]!.holds).toBe('Blue cabins');
  expect(await holds()).toBe('#2060c0');
  await change(id, LIVERY, await painted('#40c020'));
  expect((await listMods(id)).conflicts[0]).toMatchObject({ by: ['Red cabins', 'Blue cabins', 'you'], holds: 'you' });
  expect(await holds()).toBe('#40c020');

  const build = await ended((await startBuild(id, 'patch')).id);
  expect(build.result).toMatchObject({ started: true });
  const [made] = (await putBackAnswer(id)).builds;
  expect(made!.report!.scene).toMatchObject({ caption: 'Mind the cows, please.' });
  expect(made!.first.find(({ path }) => path === WORDS)).toMatchObject({ mod: 'Blue cabins' });
  expect(made!.first.find(({ path }) => path === LIVERY)).toMatchObject({ mod: null });
  await editMod(id, mods[1]!.id, { enabled: false });
  expect((await activeChanges(id)).map(({ path }) => path)).toEqual([LIVERY]);
  await removeMod(id, mods[1]!.id);
  expect((await listMods(id)).mods.map(({ name }) => name)).toEqual(['Red cabins']);
});

test('what is wrong with a mod file is said, and nothing of it is taken in', async () => {
  const { id } = await openedGame('mod-wrong');
  const files = await unzipped(mod);
  const manifest = JSON.parse(files.get(MOD_MANIFEST)!.toString()) as { changes: { file?: string }[]; name?: string };
  const withManifest = (text: string) => zipped(new Map<string, Uint8Array | string>([...files, [MOD_MANIFEST, text]]));
  const said = async (bytes: Uint8Array) => {
    const run = await brought(id, bytes);
    expect(run.state).toBe('failed');
    return [run.fault!.what, run.fault!.found].filter(Boolean).join(': ');
  };
  expect(await said(Buffer.from('no zip at all'))).toBe('this is no ZIP');
  expect(await said(await zipped(new Map([['a.txt', 'a']])))).toBe('there is no mod.json in it');
  expect(await said(await withManifest('{'))).toMatch(/mod.json is no JSON/);
  expect(await said(await withManifest(JSON.stringify({ ...manifest, name: 7 })))).toMatch(/mod.json is wrong at name/);
  const stranger = manifest.changes.map((one, i) => ({ ...one, path: `nobody/has/${i}.png` }));
  const adds = stranger.filter((one) => (one as { action?: string }).action === 'replace');
  expect(await said(await withManifest(JSON.stringify({ ...manifest, changes: adds })))).toMatch(
    /nothing of it fits this game: .*no such entry/i,
  );
  expect((await listMods(id)).mods).toEqual([]);

  // One file is not the one it was made with: that one is left out, and the others come in.
  const [first] = manifest.changes.filter((one) => one.file !== undefined);
  const bad = await zipped(new Map<string, Uint8Array | string>([...files, [first!.file!, 'other bytes']]));
  const run = await brought(id, bad);
  expect(run.state).toBe('done');
  expect(run.result).toMatchObject({ leftOut: 1 });
  expect((await listMods(id)).mods[0]!.leftOut).toEqual([expect.stringMatching(/not the one the mod was made with/)]);

  // A difference that makes more than it says is stopped, and what it wrote is gone.
  const more = manifest.changes.map((one) =>
    'difference' in one ? { ...one, becomes: { ...(one as { becomes?: object }).becomes, size: 10 } } : one,
  );
  const stopped = await brought(id, await withManifest(JSON.stringify({ ...manifest, changes: more })));
  expect(stopped.result).toMatchObject({ leftOut: 1 });
  expect((await listMods(id)).mods.at(-1)!.leftOut).toEqual([expect.stringMatching(/too large/)]);

  // Cut in its middle.
  const cut = join(games, 'cut.zip');
  const out = createWriteStream(cut);
  out.end(mod.subarray(0, mod.length / 2));
  await event(out, 'close');
  expect(await said(readFileSync(cut))).toBe('this is no ZIP');
});

test('a mod that unpacks to very much is asked about, and one made to fill the disk is refused', async () => {
  const { id } = await openedGame('mod-large');
  await settled(id);
  const large = async (bytes: number, fill: (i: number) => number) => {
    const file = Buffer.alloc(bytes);
    for (let i = 0; i < bytes; i += 200) file[i] = fill(i);
    const sha256 = createHash('sha256').update(file).digest('hex');
    const add = (path: string) => ({
      ...{ action: 'add', path, becomes: { sha256, size: bytes }, file: 'a.bin', into: 'core.hold' },
    });
    const paths = ['large/a.bin', '../out.bin', '/etc/a.bin', 'large\\..\\b.bin'];
    const manifest = { format: 'zero-latch mod', version: 1, name: 'Large', game: { name: 'any', build: null } };
    const mod = { ...manifest, changes: paths.map(add) };
    return zipped(
      new Map<string, Uint8Array | string>([
        [MOD_MANIFEST, JSON.stringify(mod)],
        ['a.bin', file],
      ]),
    );
  };
  // Four times 60 MB, of a file that packs well, but not beyond what people make.
  const run = await brought(id, await large(60_000_000, () => Math.random() * 256));
  expect(run).toMatchObject({ state: 'done', result: { asks: 240_000_000, name: 'Large' } });
  expect((await listMods(id)).mods).toEqual([]);
  const agreed = await ended((await agreeToMod(id, run.id)).id);
  // Of paths that lead somewhere else nothing is taken.
  expect(agreed).toMatchObject({ state: 'done', result: { taken: 1 } });
  expect(agreed.result).toMatchObject({ leftOut: 3 });
  expect(await fault(agreeToMod(id, run.id))).toMatchObject({ code: 'not-found' });
  expect(await brought(id, await large(60_000_000, () => 0))).toMatchObject({
    state: 'failed',
    fault: { code: 'limit-reached', limit: '400 times its size' },
  });
});
