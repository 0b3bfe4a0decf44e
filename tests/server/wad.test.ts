/** A game whose archive has pictures and sounds without a signature: told while it is scanned, changed, and built as a patch. */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { writeWav } from '../../src/core/forms/sound';
import { addIncomingFile, newDrop, startBringIn } from '../../src/server/changes';
import { entryDetails, glancesAt, listEntries } from '../../src/server/entries';
import { findWinner } from '../../src/server/content';
import { addGame, changeTestRules } from '../../src/server/games';
import { putBackAnswer, startBuild, startPutIn } from '../../src/server/put-back';
import { entryQuery } from '../../src/server/shapes';
import { drawnBy, lumpsOf, packed, PALETTE, wad } from '../wad-sample';
import { ended, games, once, settled, withWorker } from './support';

withWorker();

const CABIN = packed(4, 2, [1, 2, 3, 4, undefined, 6, 7, undefined]);
const CHIME = Buffer.from([3, 0, 0x11, 0x2b, 4, 0, 0, 0, 128, 255, 128, 0]);
const LUMPS = [
  ['PLAYPAL', PALETTE],
  ['MAP01', Buffer.alloc(0)],
  ['THINGS', Buffer.from('some things')],
  ['DSCHIME', CHIME],
  ['S_START', Buffer.alloc(0)],
  ['CABNA0', CABIN],
  ['S_END', Buffer.alloc(0)],
  ['F_START', Buffer.alloc(0)],
  ['FLOOR1', Buffer.alloc(4096, 9)],
  ['F_END', Buffer.alloc(0)],
] as const;

let id: number;
let folder: string;
beforeAll(async () => {
  folder = join(games, 'wad-game');
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'cabins.wad'), wad('IWAD', LUMPS));
  const { game, run } = await addGame({ folder });
  ({ id } = game);
  expect((await ended(run.id)).state).toBe('done');
  await settled(id);
});

const kindsOf = async (search = '') =>
  (await listEntries(id, entryQuery.parse({ search, limit: 50 }))).rows.map(({ path, kind }) => `${kind} ${path}`);

test('what entries are is known as soon as the game is', async () => {
  expect((await kindsOf()).filter((one) => !one.includes('_')).sort()).toEqual([
    'bytes MAP01',
    'bytes PLAYPAL',
    'picture flats/FLOOR1',
    'picture sprites/CABNA0',
    'sound DSCHIME',
    'words MAP01/THINGS',
  ]);
});

test('a picture and a sound are seen in a list and by themselves', async () => {
  const [picture, sound] = await Promise.all(['sprites/CABNA0', 'DSCHIME'].map((path) => findWinner(id, path)));
  const [first, second] = await glancesAt([
    [picture!.archive, picture!.n],
    [sound!.archive, sound!.n],
  ]);
  expect(first).toEqual({
    summary: expect.stringMatching(/^4×2 /),
    shows: { is: 'thumbnail', webp: expect.any(String) },
  });
  expect(second).toMatchObject({ summary: '0.0 s', shows: { is: 'peaks' } });
  expect(await entryDetails(id, sound!.archive, sound!.n)).toMatchObject({
    kind: 'sound',
    trouble: null,
    expects: [expect.stringContaining('11,025 Hz'), expect.anything()],
  });
});

test('changed ones are built as a patch with the marks around them, which is what the game reads', async () => {
  const { reads } = await putBackAnswer(id);
  expect(reads).toBe('patch');
  // The colours 200 and 201 of the palette, and a transparent pixel.
  const [red, green, blue] = PALETTE.subarray(600, 603);
  const pixels = Buffer.from([...[red!, green!, blue!, 255], ...[0, 0, 0, 0], ...[red!, green!, blue!, 255]]);
  const png = await sharp(pixels, { raw: { width: 3, height: 1, channels: 4 } })
    .resize(4, 2, { kernel: 'nearest', fit: 'fill' })
    .png()
    .toBuffer();
  const tone = writeWav({ rate: 11_025, channels: 1, samples: Int16Array.of(0, 0x4000, 0, -0x4000, 0, 0x4000) });
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: 'sprites/CABNA0.png', bytes: once(png) });
  await addIncomingFile(id, drop, { name: 'DSCHIME.wav', bytes: once(tone) });
  const brought = await ended((await startBringIn(id, drop)).id);
  expect(brought.result).toMatchObject({ taken: 2 });
  expect((await ended((await startBuild(id, 'patch')).id)).state).toBe('done');
  const [build] = (await putBackAnswer(id)).builds;
  expect(build!.files.map(({ name }) => name)).toEqual(['zz-my-cabins.wad']);
  expect(build!.report).toMatchObject({ by: 'rules', rules: 0, findings: [] });
  expect((await ended((await startPutIn(id, build!.id)).id)).state).toBe('done');
  const lumps = lumpsOf(readFileSync(join(folder, 'zz-my-cabins.wad')));
  expect(lumps.map(([name]) => name)).toEqual(['DSCHIME', 'S_START', 'CABNA0', 'S_END']);
  const { width, height, drawn } = drawnBy(lumps[2]![1]);
  expect([width, height, drawn[0], drawn[3]]).toEqual([4, 2, 200, 200]);
  expect(drawn).toContain(undefined);
  expect([...lumps[0]![1]]).toEqual([...[3, 0, 0x11, 0x2b, 6, 0, 0, 0], ...[128, 192, 128, 64, 128, 192]]);
});

test('a game whose formats do not say what it reads is asked about once', async () => {
  const other = join(games, 'zip-game');
  mkdirSync(other, { recursive: true });
  // The end of a ZIP without entries.
  writeFileSync(join(other, 'data.zip'), Buffer.concat([Buffer.from('PK\x05\x06', 'latin1'), Buffer.alloc(18)]));
  const { game, run } = await addGame({ folder: other });
  expect((await ended(run.id)).state).toBe('done');
  await settled(game.id);
  expect((await putBackAnswer(game.id)).reads).toBeNull();
  await changeTestRules(game.id, { how: 'afresh' });
  expect((await putBackAnswer(game.id)).reads).toBe('afresh');
});
