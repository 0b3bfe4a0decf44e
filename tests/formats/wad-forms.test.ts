/** Pictures, flats and sounds in a WAD: judged by a reader and a writer of their own, after the engine's released sources. */
import { join } from 'node:path';
import fc from 'fast-check';
import { ByteBuilder } from '../../demo/archives/byte-builder';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { formRecipe } from '../../src/core/forms';
import {
  readRecipePicture,
  unpackLevel,
  writeRecipePicture,
  type Pixels,
  type RecipePicture,
} from '../../src/core/forms/picture';
import { readRecipeSound, writeRecipeSound } from '../../src/core/forms/sound';
import { NO_EDITS, openArchive, planRebuild, volumeBytes, type Edits, type Recipe } from '../../src/core/recipe';
import { loadRecipe, loadRecipes } from '../../src/core/recipe/node';
import { drawnBy, lumpsOf, packed, PALETTE, wad } from '../wad-sample';
import { sameCases } from './same-cases';

const RECIPES = join(__dirname, '..', '..', 'recipes');

const read = async (file: Uint8Array, path = 'sprites/CABNA0', recipe = 'wad-picture'): Promise<RecipePicture> =>
  readRecipePicture(await loadRecipe(join(RECIPES, `${recipe}.yaml`)), [
    bufferSource(file, path),
    bufferSource(PALETTE, 'PLAYPAL'),
  ]);

/** The pixels as colours, as the palette has them. */
function seen({ rgba }: Pixels): (string | undefined)[] {
  return Array.from({ length: rgba.length / 4 }, (_, i) =>
    rgba[i * 4 + 3] === 0 ? undefined : Buffer.from(rgba.subarray(i * 4, i * 4 + 3)).toString('hex'),
  );
}
const colour = (number: number | undefined) =>
  number === undefined ? undefined : PALETTE.subarray(number * 3, number * 3 + 3).toString('hex');

const someDrawn = (height: fc.Arbitrary<number>) =>
  fc.tuple(fc.integer({ min: 1, max: 12 }), height).chain(([width, rows]) =>
    fc.record({
      width: fc.constant(width),
      height: fc.constant(rows),
      drawn: fc.array(fc.option(fc.integer({ min: 0, max: 255 }), { nil: undefined, freq: 4 }), {
        minLength: width * rows,
        maxLength: width * rows,
      }),
    }),
  );

test('a picture of columns is seen as the engine draws it, and is written as it was', () =>
  fc.assert(
    fc.asyncProperty(someDrawn(fc.integer({ min: 1, max: 200 })), async ({ width, height, drawn }) => {
      const file = packed(width, height, drawn);
      const found = await read(file);
      expect(seen(unpackLevel(found.picture, { mip: 0 }))).toEqual(drawn.map(colour));
      const [same] = await writeRecipePicture(found, found.picture);
      expect(drawnBy(same!)).toEqual({ width, height, drawn });
    }),
    sameCases(20),
  ));

test('a picture of another size, also a tall one, is drawn by the engine as it was given', () =>
  fc.assert(
    fc.asyncProperty(someDrawn(fc.integer({ min: 200, max: 900 })), async ({ width, height, drawn }) => {
      const found = await read(packed(2, 2, [1, 2, 3, 4]));
      const { format } = found.picture;
      const level = Uint8Array.from(drawn.flatMap((one) => (one === undefined ? [0, 0] : [one, 255])));
      const [written] = await writeRecipePicture(found, { ...found.picture, format, width, height, levels: [level] });
      expect(drawnBy(written!)).toEqual({ width, height, drawn });
      // The point at which it is drawn stays.
      expect([...written!.slice(4, 8)]).toEqual([3, 0, 2, 0]);
    }),
    sameCases(10),
  ));

test('of two equal colours of a palette, a pixel keeps its own', async () => {
  const found = await read(packed(2, 1, [8, 7]));
  const pixels = unpackLevel(found.picture, { mip: 0 });
  const level = new Uint8Array(4);
  for (const i of [0, 1]) found.picture.format.pack!(pixels.rgba, i * 4, level, i * 2);
  expect([...level]).toEqual([7, 255, 7, 255]);
  const [written] = await writeRecipePicture(found, { ...found.picture, levels: [level] });
  expect(drawnBy(written!).drawn).toEqual([8, 7]);
});

test('a flat has 64 pixels a row, and is grey without a palette', async () => {
  const pixels = Buffer.from(Array.from({ length: 4096 }, (_, i) => i & 255));
  const found = await read(pixels, 'flats/FLOOR1', 'wad-flat');
  expect(found.picture).toMatchObject({ width: 64, height: 64, mips: 1 });
  expect(seen(unpackLevel(found.picture, { mip: 0 }))).toEqual([...pixels].map(colour));
  const [written] = await writeRecipePicture(found, found.picture);
  expect(Buffer.compare(written!, pixels)).toBe(0);
  const recipe = await loadRecipe(join(RECIPES, 'wad-flat.yaml'));
  const alone = await readRecipePicture(recipe, [bufferSource(pixels, 'flats/FLOOR1')]);
  expect([...unpackLevel(alone.picture, { mip: 0 }).rgba.subarray(0, 8)]).toEqual([0, 0, 0, 255, 1, 1, 1, 255]);
});

test('a sound has its rate in front, and takes others of any length', async () => {
  const recipe = await loadRecipe(join(RECIPES, 'wad-sound.yaml'));
  const file = new ByteBuilder()
    .u16(3)
    .u16(11_025)
    .u32(5)
    .raw(Buffer.from([128, 255, 0, 128, 64]))
    .bytes();
  const sound = await readRecipeSound(recipe, file, 'DSCHIME');
  expect(sound.format).toMatchObject({ codec: 'pcm-u8', rate: 11_025, channels: 1 });
  expect([...sound.samples]).toEqual([128, 255, 0, 128, 64]);
  const written = await writeRecipeSound(sound, Uint8Array.of(1, 2, 3));
  expect([...written]).toEqual([3, 0, 0x11, 0x2b, 3, 0, 0, 0, 1, 2, 3]);
});

describe('which form an entry without a signature has', () => {
  let recipes: readonly Recipe[];
  beforeAll(async () => {
    recipes = (await loadRecipes(RECIPES)).filter(({ id }) => id.startsWith('wad-') && id !== 'wad-lumps');
  });
  const formOf = async (path: string, bytes: Uint8Array) => (await formRecipe(recipes, bytes, path))?.id;
  const picture = packed(40, 30, new Array<number>(1200).fill(9));
  const random = Uint8Array.from({ length: 512 }, (_, i) => (i * 197 + 31) & 255);

  test('is told by its path and its first fields', async () => {
    expect(await formOf('TITLEPIC', picture)).toBe('wad-picture');
    expect(await formOf('mods/a.wad/sprites/CABNA0', picture.subarray(0, 60))).toBe('wad-picture');
    expect(await formOf('flats/FLOOR1', random)).toBe('wad-flat');
    expect(await formOf('DSCHIME', Uint8Array.of(3, 0, 17, 43, 1, 0, 0, 0, 128))).toBe('wad-sound');
  });

  test('is none where the fields are other than they must be', async () => {
    expect(await formOf('COLORMAP', random)).toBeUndefined();
    expect(await formOf('ENDOOM', Buffer.alloc(4000, 32))).toBeUndefined();
    expect(await formOf('picture.dat', picture)).toBeUndefined();
    expect(await formOf('DSCHIME', random)).toBeUndefined();
    expect(await formOf('EMPTY', new Uint8Array(0))).toBeUndefined();
  });
});

test('what lies between marks is in a folder, however many lumps are behind a mark', async () => {
  const names = [
    'PLAYPAL',
    'S_START',
    ...Array.from({ length: 9000 }, (_, i) => `A${i}`),
    'S_END',
    'F_START',
    'FLOOR1',
  ];
  const archive = await openArchive(
    await loadRecipe(join(RECIPES, 'wad-lumps.yaml')),
    bufferSource(
      wad(
        'PWAD',
        names.map((name) => [name, Buffer.alloc(0)]),
      ),
      'many.wad',
    ),
  );
  const paths = Array.from({ length: archive.entries.count }, (_, i) => archive.entries.path(i));
  expect(paths.slice(0, 3)).toEqual(['PLAYPAL', 'S_START', 'sprites/A0']);
  expect(paths.slice(-4)).toEqual(['sprites/A8999', 'S_END', 'F_START', 'flats/FLOOR1']);
});

describe('a patch for a WAD', () => {
  const LUMPS = [
    ...['PLAYPAL', 'MAP01', 'THINGS', 'LINEDEFS', 'REJECT', 'MAP02', 'THINGS', 'S_START', 'CABNA0', 'CABNB0', 'S_END'],
    ...['P_START', 'P1_START', 'WALL1', 'P1_END', 'P_END'],
  ];
  const open = async (bytes: Uint8Array) =>
    openArchive(await loadRecipe(join(RECIPES, 'wad-lumps.yaml')), bufferSource(bytes, 'sample.wad'));
  const base = () =>
    wad(
      'IWAD',
      LUMPS.map((name, i) => [name, Buffer.from(/_|^MAP/.test(name) ? '' : `${name} ${i}`)]),
    );
  /** Names and texts of the lumps in the patch. */
  const patched = async (edits: Partial<Edits>) => {
    const archive = await open(base());
    const plan = await planRebuild(archive, { ...NO_EDITS, ...edits }, { scratch: memoryScratch(), layout: 'patch' });
    const lumps = lumpsOf(await collect(volumeBytes(plan.volumes[0]!)));
    return lumps.map(([name, bytes]) => (bytes.length === 0 ? name : `${name}=${bytes.toString('latin1')}`));
  };
  const text = (of: string) => bufferSource(Buffer.from(of));
  const at = (name: string, nth = 0) => LUMPS.flatMap((one, i) => (one === name ? [i] : []))[nth]!;

  test('has a lump of its own alone, and one between marks with these', async () => {
    expect(await patched({ replace: new Map([[at('PLAYPAL'), text('new')]]) })).toEqual(['PLAYPAL=new']);
    expect(await patched({ replace: new Map([[at('CABNB0'), text('new')]]) })).toEqual([
      'S_START',
      'CABNB0=new',
      'S_END',
    ]);
    expect(await patched({ replace: new Map([[at('WALL1'), text('new')]]) })).toEqual([
      ...['P_START', 'P1_START', 'WALL1=new', 'P1_END', 'P_END'],
    ]);
  });

  test('has a whole map where one lump of it is another, and none that was removed from it', async () => {
    expect(await patched({ replace: new Map([[at('LINEDEFS'), text('new')]]) })).toEqual([
      ...['MAP01', 'THINGS=THINGS 2', 'LINEDEFS=new', 'REJECT=REJECT 4'],
    ]);
    const edits = { remove: new Set([at('REJECT')]), add: [{ path: 'MAP01/NODES', bytes: text('added') }] };
    expect(await patched(edits)).toEqual(['MAP01', 'THINGS=THINGS 2', 'LINEDEFS=LINEDEFS 3', 'NODES=added']);
  });

  test('has what is added where it belongs', async () => {
    expect(await patched({ add: [{ path: 'sprites/CABNC0', bytes: text('added') }] })).toEqual([
      ...['S_START', 'CABNC0=added', 'S_END'],
    ]);
  });

  test('cannot say that a lump of no map is gone, nor a whole map, nor all marks of a group', async () => {
    const sprites = ['S_START', 'CABNA0', 'CABNB0', 'S_END'].map((name) => at(name));
    const map = ['MAP01', 'THINGS', 'LINEDEFS', 'REJECT'].map((name) => at(name));
    for (const gone of [[at('PLAYPAL')], map, sprites])
      await expect(patched({ remove: new Set(gone) })).rejects.toThrow(/no deletion markers/);
  });
});
