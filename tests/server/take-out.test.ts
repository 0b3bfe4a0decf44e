/** Taking out again and again: only what changed, by label, in parts, in one; and what was split comes back joined. */
import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { unpackLevel } from '../../src/core/forms/picture';
import { readWavFacts } from '../../src/core/forms/sound';
import { addIncomingFile, listChanges, newDrop, startBringIn, takeChange } from '../../src/server/changes';
import { GameModel, RunModel } from '../../src/server/database';
import { entryBytes, findWinner } from '../../src/server/content';
import { entryDetails, listEntries } from '../../src/server/entries';
import { env } from '../../src/server/env';
import { addGame, addKey, splitsOf } from '../../src/server/games';
import { entryQuery } from '../../src/server/shapes';
import { setLabels } from '../../src/server/labels';
import { clashesOf, downloadZip, editTray, repeatTakeOut, startTakeOut } from '../../src/server/take-out';
import { intoZip } from '../../src/server/take-out/into-zip';
import { ended, fault, games, openedGame, settled, withWorker, once } from './support';
import { pictureOfChange, pictureOfEntry, soundOfEntry } from './subjects';

withWorker();

let id: number;
beforeAll(async () => {
  ({ id } = await openedGame('taking'));
  await ended((await addKey(id, gameKey('1.4.1', 'voices').toString('hex'))).id);
  await settled(id);
});

const folder = (name: string) => join(games, `taking-${name}`);
const normal = 'models/cabin/cabin_normal.tex';

async function takenOut(add: readonly string[], order: Omit<Parameters<typeof startTakeOut>[1], 'to'>, name: string) {
  await editTray(id, { add: [...add], remove: [], clear: true });
  const run = await ended((await startTakeOut(id, { to: folder(name), ...order })).id);
  return { run, result: run.result as { taken: number; skipped: number; failures: unknown[] } };
}

test('only what changed is taken again, and a run is repeated', async () => {
  const paths = [normal, 'models/crane/crane_colour.tex', 'cabins/livery/cabin_01_blue.png'];
  const order = { pictures: 'png', onlyChanged: true } as const;
  const first = await takenOut(paths, order, 'again');
  expect(first.result).toMatchObject({ taken: 3, skipped: 0, failures: [] });
  const second = await takenOut(paths, order, 'again');
  expect(second.result).toMatchObject({ taken: 0, skipped: 3 });
  // What is gone comes again, and what is wanted otherwise is another file.
  rmSync(join(folder('again'), 'models/cabin/cabin_normal.png'));
  const third = await ended((await repeatTakeOut(id, second.run.id)).id);
  expect(third.result).toMatchObject({ taken: 1, skipped: 2, kept: 0 });
  expect(statSync(join(folder('again'), 'models/cabin/cabin_normal.png')).size).toBeGreaterThan(1000);
  const smaller = await takenOut(paths, { ...order, mip: 1 }, 'again');
  expect(smaller.result).toMatchObject({ taken: 3, skipped: 0 });
  const facts = await sharp(join(folder('again'), 'models/cabin/cabin_normal.png')).metadata();
  expect([facts.width, facts.height]).toEqual([128, 128]);
});

describe('a file that is there and that no run wrote', () => {
  const [blue, red] = ['cabins/livery/cabin_01_blue.png', 'cabins/livery/cabin_07_red.png'] as const;
  const at = (path: string) => join(folder('mine'), path);
  const order = (more: object) => ({ to: folder('mine'), ...more });

  beforeEach(async () => {
    rmSync(folder('mine'), { recursive: true, force: true });
    await takenOut([blue], {}, 'mine');
    // One was changed since it was taken out, the other was never taken out.
    writeFileSync(at(blue), 'my blue');
    writeFileSync(at(red), 'my red');
    await editTray(id, { add: [blue, red], remove: [], clear: true });
  });

  test('is counted before anything is written', async () => {
    const { count, first } = await clashesOf(id, order({}));
    expect({ count, first: first.map(({ path, size }) => [path, size]) }).toEqual({
      count: 2,
      first: [
        [blue, 'my blue'.length],
        [red, 'my red'.length],
      ],
    });
    expect(Date.parse(first[0]!.modified)).toBeGreaterThan(Date.now() - 600_000);
    rmSync(at(red));
    expect(await clashesOf(id, order({ form: 'stored' }))).toMatchObject({ count: 1, first: [{ path: blue }] });
    expect(await clashesOf(id, { to: null })).toEqual({ count: 0, first: [] });
  });

  test('stays, also when only changes are wanted', async () => {
    for (const more of [{}, { onlyChanged: true }]) {
      const { result } = await takenOut([blue, red], more, 'mine');
      expect(result).toMatchObject({ taken: 0, kept: 2, failures: [] });
    }
    expect([readFileSync(at(blue), 'utf8'), readFileSync(at(red), 'utf8')]).toEqual(['my blue', 'my red']);
  });

  test('is moved aside', async () => {
    const { result } = await takenOut([blue, red], { existing: 'aside' }, 'mine');
    expect(result).toMatchObject({ taken: 2, kept: 0 });
    expect(readFileSync(at(blue.replace('.png', ' (mine).png')), 'utf8')).toBe('my blue');
    expect(readFileSync(at(blue)).subarray(1, 4).toString()).toBe('PNG');
    // What the run wrote is its own now, and takes its own place.
    expect(await clashesOf(id, order({}))).toEqual({ count: 0, first: [] });
    writeFileSync(at(blue), 'my second blue');
    await takenOut([blue], { existing: 'aside' }, 'mine');
    expect(readFileSync(at(blue.replace('.png', ' (mine 2).png')), 'utf8')).toBe('my second blue');
  });

  test('is moved aside when it is a folder, with all that is in it', async () => {
    rmSync(at(red));
    mkdirSync(at(red));
    writeFileSync(join(at(red), 'notes.txt'), 'my notes');
    const { result } = await takenOut([red], { existing: 'aside' }, 'mine');
    expect(result).toMatchObject({ failures: [] });
    expect(readFileSync(join(at(red.replace('.png', ' (mine).png')), 'notes.txt'), 'utf8')).toBe('my notes');
    expect(readFileSync(at(red)).subarray(1, 4).toString()).toBe('PNG');
  });

  test('is written over when that is said', async () => {
    const { result } = await takenOut([blue, red], { existing: 'replace' }, 'mine');
    expect(result).toMatchObject({ taken: 2, kept: 0 });
    expect(readFileSync(at(red)).subarray(1, 4).toString()).toBe('PNG');
    expect(readdirSync(join(folder('mine'), 'cabins/livery'))).toHaveLength(2);
  });

  test('is decided on one by one', async () => {
    const other = 'words/en/captions.txt';
    mkdirSync(join(folder('mine'), 'words/en'), { recursive: true });
    for (const path of [blue, red, other]) writeFileSync(at(path), `mine ${path}`);
    const { result } = await takenOut([blue, red, other], { decisions: { [blue]: 'replace', [red]: 'aside' } }, 'mine');
    // What no one decided on stays.
    expect(result).toMatchObject({ taken: 2, kept: 1, failures: [] });
    expect(readFileSync(at(other), 'utf8')).toBe(`mine ${other}`);
    expect(readFileSync(at(red.replace('.png', ' (mine).png')), 'utf8')).toBe(`mine ${red}`);
    for (const path of [blue, red]) expect(readFileSync(at(path)).subarray(1, 4).toString()).toBe('PNG');
    const many = Object.fromEntries(Array.from({ length: 1_001 }, (_, i) => [String(i), 'keep' as const]));
    await expect(clashesOf(id, order({ decisions: many }))).rejects.toThrow('at most 1000 files');
  });

  test('is known again when it holds the same bytes', async () => {
    const { result } = await takenOut([blue], { existing: 'replace' }, 'mine');
    expect(result).toMatchObject({ taken: 1 });
    // Another time stamp: as after a run that was killed before it could note what it wrote.
    utimesSync(at(blue), 1, 1);
    expect(await clashesOf(id, order({}))).toMatchObject({ count: 1 });
    expect((await takenOut([blue], {}, 'mine')).result).toMatchObject({ kept: 0 });
    expect(await clashesOf(id, order({}))).toEqual({ count: 0, first: [] });
  });
});

test('the folder of a game, and the one of the application, are no places to take out to', async () => {
  await editTray(id, { add: [normal], remove: [], clear: true });
  const { folder: game } = (await GameModel.findByPk(id))!;
  const mine = { code: 'not-allowed', what: expect.stringContaining('belongs to the game') };
  expect(await fault(startTakeOut(id, { to: game }))).toMatchObject(mine);
  expect(await fault(startTakeOut(id, { to: join(game, 'deeper') }))).toMatchObject(mine);
  const own = { code: 'not-allowed', what: expect.stringContaining('its own files') };
  expect(await fault(startTakeOut(id, { to: env().home }))).toMatchObject(own);
  expect(await fault(startTakeOut(id, { to: join(env().home, 'blobs/x') }))).toMatchObject(own);
});

test('the half of a picture that lies in another entry goes out in the picture', async () => {
  const { result } = await takenOut([normal, `${normal}far`], { pictures: 'png' }, 'halves');
  expect(result).toMatchObject({ taken: 1, failures: [] });
  expect(readdirSync(join(folder('halves'), 'models/cabin'))).toEqual(['cabin_normal.png']);
});

test('files are called by the labels of their entries', async () => {
  await setLabels(id, [
    { path: 'voices/en/cue_0100.adpcm', text: 'doors: closing' },
    { path: 'voices/en/cue_0105.adpcm', text: 'doors: closing' },
  ]);
  const paths = ['voices/en/cue_0100.adpcm', 'voices/en/cue_0105.adpcm', 'voices/en/cue_0110.adpcm'];
  await takenOut(paths, { sounds: 'wav', layout: 'labels' }, 'labels');
  expect(readdirSync(join(folder('labels'), 'voices/en')).sort()).toEqual([
    'cue_0110.wav',
    'doors_ closing (2).wav',
    'doors_ closing.wav',
  ]);
});

test('a packed picture goes out in parts by a rule, and comes back joined', async () => {
  const split = '_directions: rgb; _rough: -a';
  const { result } = await takenOut([normal], { pictures: 'png', split }, 'split');
  expect(result).toMatchObject({ taken: 1, failures: [] });
  const part = (suffix: string) => join(folder('split'), `models/cabin/cabin_normal${suffix}.png`);
  expect(existsSync(part(''))).toBe(false);
  expect((await splitsOf(id))[0]).toBe(split);
  const { archive, n } = await findWinner(id, normal);
  const before = unpackLevel((await pictureOfEntry(archive, n)).picture, { mip: 0 });
  const rough = await sharp(part('_rough')).ensureAlpha().raw().toBuffer();
  expect([rough[0], rough[1], rough[2], rough[3]]).toEqual([...Array(3).fill(255 - before.rgba[3]!), 255]);

  const flat = await sharp({ create: { width: 64, height: 64, channels: 3, background: '#404040' } })
    .png()
    .toBuffer();
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: 'mine/cabin_normal_rough.png', bytes: once(flat) });
  const mirrored = await sharp(part('_directions')).flop().png().toBuffer();
  await addIncomingFile(id, drop, { name: 'mine/cabin_normal_directions.png', bytes: once(mirrored) });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 2, left: 0 });
  const [change] = (await listChanges(id)).filter(({ undone }) => !undone);
  expect(change).toMatchObject({ path: normal, matchedBy: { code: 'by-part', part: expect.any(String) } });
  const { rgba } = unpackLevel((await pictureOfChange(id, change!.id)).picture, { mip: 0 });
  // Both parts are in it: alpha everywhere as brought and turned round, directions mirrored.
  const alphas = Array.from({ length: 256 * 256 }, (_, i) => rgba[i * 4 + 3]!);
  expect(alphas.every((alpha) => Math.abs(alpha - (255 - 0x40)) < 6)).toBe(true);
  let apart = 0;
  for (let i = 0; i < 256 * 256; i++) {
    const from = ((i >> 8) * 256 + 255 - (i & 255)) * 4;
    apart += Math.abs(rgba[i * 4]! - before.rgba[from]!);
  }
  expect(apart / 65_536).toBeLessThan(3);
});

test('sounds go out without silence, or all in one with a cue sheet', async () => {
  const paths = ['voices/en/cue_0100.adpcm', 'voices/de/cue_0100.adpcm', 'tannoy/gate_open.wav'];
  const { result } = await takenOut([...paths, normal], { sounds: 'wav', join: true }, 'joined');
  expect(result.failures).toEqual([]);
  expect(readdirSync(folder('joined')).sort()).toEqual(['models', 'sounds.cue', 'sounds.wav']);
  const facts = readWavFacts(new Uint8Array(readFileSync(join(folder('joined'), 'sounds.wav'))), 'sounds.wav');
  const { archive, n } = await findWinner(id, paths[0]!);
  const { sound } = await soundOfEntry(archive, n);
  expect(facts.seconds).toBeGreaterThan((sound.samples.length / sound.rate) * 1.5);
  const cue = readFileSync(join(folder('joined'), 'sounds.cue'), 'utf8');
  expect(cue.match(/TRACK/g)).toHaveLength(3);
  expect(cue).toContain('TITLE "doors: closing"');
});

test('a ZIP that is given up leaves nothing behind, and is not downloaded', async () => {
  const run = await RunModel.create({ kind: 'take-out', title: 'A ZIP', gameId: id, state: 'stopped', input: {} });
  const zip = await intoZip(run.id);
  expect(await zip.write('a.txt', once('whole'))).toBe(5);
  expect(existsSync(join(env().home, 'zips', `${run.id}.zip`))).toBe(true);
  await zip.abandon();
  expect(existsSync(join(env().home, 'zips', `${run.id}.zip`))).toBe(false);
  expect(await fault(downloadZip(id, run.id, new AbortController().signal))).toMatchObject({ code: 'not-found' });
});

test('a link of a TAR archive has the bytes of its file; a file for it changes that one', async () => {
  const folder = join(games, 'linked');
  mkdirSync(join(folder, 'made/art'), { recursive: true });
  writeFileSync(join(folder, 'made/art/words.txt'), 'Mind the doors.\n');
  symlinkSync('art/words.txt', join(folder, 'made/again.txt'));
  symlinkSync('art', join(folder, 'made/folder'));
  execFileSync('tar', ['-cf', join(folder, 'pack.tar'), '-C', join(folder, 'made'), 'art', 'again.txt', 'folder']);
  rmSync(join(folder, 'made'), { recursive: true });
  const { game, run } = await addGame({ folder });
  expect((await ended(run.id)).state).toBe('done');
  await settled(game.id);
  const { rows } = await listEntries(game.id, entryQuery.parse({ search: 'txt', limit: 10 }));
  expect(rows.map(({ path, size }) => [path, size]).sort()).toEqual([
    ['again.txt', 16],
    ['art/words.txt', 16],
  ]);
  const { archive, n } = await findWinner(game.id, 'again.txt');
  expect(await entryDetails(game.id, archive, n)).toMatchObject({ linkTo: 'art/words.txt', kind: 'words' });
  expect(Buffer.from((await entryBytes(archive, n)).bytes).toString()).toBe('Mind the doors.\n');
  const bytes = Buffer.from('The next cabin leaves soon.\n');
  expect(await takeChange(game.id, { path: 'again.txt', fileName: 'again.txt', bytes })).toMatchObject({
    path: 'art/words.txt',
  });
});
