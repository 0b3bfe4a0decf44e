/** Where recipes count: in the game they were saved in, with the archives they belong to, and behind what bytes say themselves. */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { glancesAt, listEntries, thumbnail } from '../../src/server/entries';
import { database } from '../../src/server/database';
import { findWinner } from '../../src/server/content';
import { entrySubject, formOf } from '../../src/server/forms';
import { pictureOfFiles } from '../../src/server/forms/picture';
import { env } from '../../src/server/env';
import { addGame, exportProfile, importProfile } from '../../src/server/games';
import { exportCollection, importCollection, knownRecipes, listRecipes, saveRecipe } from '../../src/server/recipes';
import { startRun } from '../../src/server/runs';
import { entryQuery } from '../../src/server/shapes';
import { PALETTE, wad } from '../wad-sample';
import { ended, games, settled, withWorker } from './support';

withWorker();

/** 2 × 2 pixels behind a size, in files called `.dat`: such a recipe fits much else. */
const PAINTING = `recipe: painting
title: Painting
revision: 1
numbers: little
paths: "**/*.dat"
presents: picture
shapes:
  header: [{ field: width, as: u16, must: 1..64 }, { field: height, as: u16, must: 1..64 }]
regions:
  - { region: head, at: 0, holds: header }
  - { region: pixels, at: 4, length: end - 4, holds: bytes }
picture: { width: head.width, height: head.height, format: '"rgb8"', pixels: [{ from: pixels }] }
`;
const painting = Buffer.from([2, 0, 2, 0, ...Array.from({ length: 12 }, (_, i) => i * 20)]);

async function game(name: string, files: Readonly<Record<string, Uint8Array>>): Promise<number> {
  const folder = join(games, name);
  mkdirSync(folder, { recursive: true });
  for (const [path, bytes] of Object.entries(files)) writeFileSync(join(folder, path), bytes);
  const { game: made, run } = await addGame({ folder });
  await ended(run.id);
  await settled(made.id);
  return made.id;
}

const kindsOf = async (id: number) =>
  Object.fromEntries(
    (await listEntries(id, entryQuery.parse({ limit: 50 }))).rows.map(({ path, kind }) => [path, kind]),
  );
const rescan = (gameId: number) => startRun('scan', { title: 'Scanning', gameId, input: {} });
const idsOf = async (id: number) => (await knownRecipes(id)).map((recipe) => recipe.id);

afterEach(() => database().query('delete from recipes; delete from recipe_games'));

test('a recipe saved in one game makes no picture of another’s files, unless it is for all', async () => {
  const [mine, other] = [await game('mine', { 'a.dat': painting }), await game('other', { 'a.dat': painting })];
  await saveRecipe(PAINTING, { game: mine, everywhere: false });
  for (const id of [mine, other]) await ended((await rescan(id)).id);
  expect([await kindsOf(mine), await kindsOf(other)]).toMatchObject([{ 'a.dat': 'picture' }, {}]);
  expect((await kindsOf(other))['a.dat']).not.toBe('picture');
  const [listed] = (await listRecipes()).filter(({ id }) => id === 'painting');
  expect(listed!.scope).toEqual({ games: [mine], everywhere: false });

  await saveRecipe(PAINTING.replace('revision: 1', 'revision: 2'), { game: mine, everywhere: true });
  await ended((await rescan(other)).id);
  expect(await kindsOf(other)).toMatchObject({ 'a.dat': 'picture' });
});

test('a recipe that is mended shows the picture anew, small ones too', async () => {
  const id = await game('mended', { 'a.dat': painting });
  await saveRecipe(PAINTING, { game: id, everywhere: false });
  await ended((await rescan(id)).id);
  const { archive, n } = await findWinner(id, 'a.dat');
  const seen = async () => {
    const [card] = await glancesAt([[archive, n]]);
    const small = await sharp(await thumbnail(archive, n))
      .raw()
      .toBuffer();
    return { card, red: small[0]!, blue: small[2]! };
  };
  const before = await seen();
  await saveRecipe(PAINTING.replace('revision: 1', 'revision: 2').replace('rgb8', 'bgr8'), {
    game: id,
    everywhere: false,
  });
  const after = await seen();
  expect(after.card).not.toEqual(before.card);
  expect(Math.sign(after.red - after.blue)).toBe(-Math.sign(before.red - before.blue));
});

test('what the first bytes say comes before a recipe that goes by names', async () => {
  const png = await sharp({ create: { width: 2, height: 2, channels: 3, background: '#345' } })
    .png()
    .toBuffer();
  const id = await game('named', { 'a.dat': painting, 'b.dat': png });
  const loose = PAINTING.replace('recipe: painting', 'recipe: anything').replaceAll(', must: 1..64', '');
  await saveRecipe(loose, { game: id, everywhere: false });
  await ended((await rescan(id)).id);
  expect(await kindsOf(id)).toMatchObject({ 'a.dat': 'picture', 'b.dat': 'picture' });
  const none = () => Promise.resolve(undefined);
  expect((await pictureOfFiles(id, { path: 'a.dat', bytes: painting }, none)).is).toBe('recipe');
  expect((await pictureOfFiles(id, { path: 'b.dat', bytes: png }, none)).is).toBe('png');
});

test('a recipe that does not read an entry leaves it to the built-in reader, which is said', async () => {
  // A plain BMP of 2 × 2 pixels, which the recipe takes for one of its own.
  const bmp = Buffer.alloc(54 + 16);
  bmp.write('BM');
  for (const [at, value] of [
    [10, 54],
    [14, 40],
    [18, 2],
    [22, 2],
    [26, 1],
  ] as const)
    bmp.writeUInt32LE(value, at);
  bmp.writeUInt16LE(24, 28);
  const id = await game('fallback', { 'a.bmp': bmp });
  const strict = PAINTING.replace('paths: "**/*.dat"', 'match: { at: 0, bytes: BM }').replace(
    'recipe: painting',
    'recipe: bitmap',
  );
  await saveRecipe(strict, { game: id, everywhere: false });
  await ended((await rescan(id)).id);
  const { archive, n } = await findWinner(id, 'a.bmp');
  const subject = await entrySubject(archive, n);
  const { facts, expects } = await formOf(subject)!.read(subject);
  expect(facts).toMatchObject({ form: 'picture', width: 2, height: 2 });
  expect(expects[0]).toMatch(/^The recipe Painting does not read it, so it is read as BGR 8 bit\. .*width/);
});

test('forms of an engine count where one of its archives is', async () => {
  const flat = Buffer.alloc(4096, 9);
  const lumps = [
    ['PLAYPAL', PALETTE],
    ['F_START', Buffer.alloc(0)],
    ['FLOOR1', flat],
    ['F_END', Buffer.alloc(0)],
  ] as const;
  const [plain, engine] = [
    await game('no-wad', { readme: Buffer.from('text') }),
    await game('wad', { 'a.wad': wad('IWAD', lumps) }),
  ];
  expect(await idsOf(plain)).not.toContain('wad-flat');
  expect(await idsOf(engine)).toContain('wad-flat');
  // Formats of archives are recognised everywhere.
  expect(await idsOf(plain)).toContain('wad-lumps');
  expect(await idsOf(plain)).toContain('md3-mesh');
  const { recipes } = await exportCollection(engine);
  expect(recipes.map(({ id }) => id).sort()).toEqual(['wad-flat', 'wad-lumps', 'wad-picture', 'wad-sound']);
});

test('a collection is saved where it is brought in, and what is not newer or not right is left out with the reason', async () => {
  const [from, to] = [await game('from', { 'a.dat': painting }), await game('to', { 'a.dat': painting })];
  await saveRecipe(PAINTING, { game: from, everywhere: false });
  const { recipes } = await exportCollection(from);
  expect(recipes.map(({ id }) => id)).toEqual(['painting']);
  const parcel = readFileSync(join(env().checkout, 'recipes/parcel.yaml'), 'utf8');
  const sketch = PAINTING.replace('painting', 'sketch');
  const texts = [...recipes.map(({ text }) => text), parcel, 'recipe: half\n', sketch, `${sketch}\n`];
  const taken = await importCollection(texts, { game: to, everywhere: false });
  expect(taken).toEqual({
    saved: ['painting', 'sketch'],
    leftOut: [
      { id: 'half', reason: expect.stringMatching(/not right/) },
      { id: 'sketch', reason: 'the collection has another recipe of that name' },
    ],
  });
  expect(await idsOf(to)).toEqual(expect.arrayContaining(['painting', 'sketch']));
  expect(await idsOf(from)).not.toContain('sketch');
});

test('a recipe for a game that is not there is not saved', async () => {
  await expect(saveRecipe(PAINTING, { game: 2_000_000, everywhere: false })).rejects.toThrow();
  expect((await listRecipes()).map(({ id }) => id)).not.toContain('painting');
});

test('a path that an engine has forms for makes no picture where the engine is not', async () => {
  const folder = join(games, 'flats-of-no-engine');
  mkdirSync(join(folder, 'flats'), { recursive: true });
  writeFileSync(join(folder, 'flats', 'FLOOR1'), Buffer.alloc(4096, 9));
  const { game: made, run } = await addGame({ folder });
  await ended(run.id);
  await settled(made.id);
  expect((await kindsOf(made.id))['flats/FLOOR1']).not.toBe('picture');
});

test('a profile takes the recipes of its game along', async () => {
  const [from, to] = [
    await game('profile-from', { 'a.dat': painting }),
    await game('profile-to', { 'a.dat': painting }),
  ];
  await saveRecipe(PAINTING, { game: from, everywhere: false });
  const profile = await exportProfile(from);
  expect(profile.recipes.map(({ id }) => id)).toEqual(['painting']);
  await database().query('delete from recipes');
  const { recipes, run } = await importProfile(to, profile);
  expect(recipes).toBe(1);
  await ended(run.id);
  expect(await kindsOf(to)).toMatchObject({ 'a.dat': 'picture' });
});
