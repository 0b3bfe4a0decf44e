/** Taking out again and again: only what changed, by label, in parts, in one; and what was split comes back joined. */
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { unpackLevel } from '../../src/core/forms/picture';
import { readWavFacts } from '../../src/core/forms/sound';
import { addArrival, listChanges, newDrop, pictureOfChange, startBringIn } from '../../src/server/changes';
import { RunModel } from '../../src/server/database';
import { findWinner } from '../../src/server/entries';
import { env } from '../../src/server/env';
import { pictureOfEntry, soundOfEntry } from '../../src/server/forms';
import { addKey, splitsOf } from '../../src/server/games';
import { setLabels } from '../../src/server/labels';
import { downloadZip, editTray, repeatTakeOut, startTakeOut } from '../../src/server/take-out';
import { intoZip } from '../../src/server/take-out/into-zip';
import { ended, fault, games, openedGame, settled, withWorker, once } from './support';

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
  // What somebody touched is not theirs any more, and what is wanted otherwise is another file.
  writeFileSync(join(folder('again'), 'models/cabin/cabin_normal.png'), 'scribbled over');
  const third = await ended((await repeatTakeOut(id, second.run.id)).id);
  expect(third.result).toMatchObject({ taken: 1, skipped: 2 });
  expect(statSync(join(folder('again'), 'models/cabin/cabin_normal.png')).size).toBeGreaterThan(1000);
  const smaller = await takenOut(paths, { ...order, mip: 1 }, 'again');
  expect(smaller.result).toMatchObject({ taken: 3, skipped: 0 });
  const facts = await sharp(join(folder('again'), 'models/cabin/cabin_normal.png')).metadata();
  expect([facts.width, facts.height]).toEqual([128, 128]);
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
  await addArrival(id, drop, { name: 'mine/cabin_normal_rough.png', bytes: once(flat) });
  const mirrored = await sharp(part('_directions')).flop().png().toBuffer();
  await addArrival(id, drop, { name: 'mine/cabin_normal_directions.png', bytes: once(mirrored) });
  expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ taken: 2, left: 0 });
  const [change] = (await listChanges(id)).filter(({ undone }) => !undone);
  expect(change).toMatchObject({ path: normal, why: 'a part of it, by name' });
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
