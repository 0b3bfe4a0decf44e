/** Single files packed by other programs: the file in them, and back again as these programs read it. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import {
  isProven,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  recogniseFile,
  volumeBytes,
} from '../../src/core/recipe';
import { loadRecipes } from '../../src/core/recipe/node';

const recipes = loadRecipes(join(__dirname, '..', '..', 'recipes'));
const folder = mkdtempSync(join(tmpdir(), 'zero-latch-packed-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const PLAIN = Buffer.from('The cabin leaves the valley station.\n'.repeat(300));

describe.each([
  ['gzip', 'gz'],
  ['bzip2', 'bz2'],
  ['xz', 'xz'],
  ['zstd', 'zst'],
  ['lz4', 'lz4'],
])('a file packed with %s', (tool, ending) => {
  const file = join(folder, `words.txt.${ending}`);
  const open = async (bytes: Uint8Array = readFileSync(file)) => {
    const source = bufferSource(bytes, `words.txt.${ending}`);
    const { fits } = await recogniseFile(await recipes, source);
    expect(fits.map(({ recipe }) => recipe.id)).toEqual([`${tool}-file`]);
    return openArchive(fits[0]!.recipe, source);
  };
  beforeAll(() => {
    writeFileSync(file, execFileSync(tool, ['-c'], { input: PLAIN }));
  });

  test('is the file in it, proves whole, and is read by the tool when it is another', async () => {
    const archive = await open();
    expect(archive.entries.count).toBe(1);
    expect(archive.entries.path(0)).toBe('words.txt');
    expect(Buffer.compare(await collect(readEntry(archive, 0)), PLAIN)).toBe(0);
    const proof = await prove(archive, { scratch: memoryScratch() });
    expect(isProven(proof)).toBe(true);
    expect(proof.edits.edits.filter(({ fault }) => fault === undefined).map(({ edit }) => edit)).toContain('longer');
    const other = Buffer.from('There is snow on the line.\n'.repeat(99));
    const edits = { ...NO_EDITS, replace: new Map([[0, bufferSource(other)]]) };
    const plan = await planRebuild(archive, edits, { scratch: memoryScratch() });
    const bytes = await collect(volumeBytes(plan.volumes[0]!));
    expect(execFileSync(tool, ['-dc'], { input: bytes }).equals(other)).toBe(true);
  });

  test('holds one file, which can be neither removed nor joined by another', async () => {
    const archive = await open();
    const scratch = memoryScratch();
    await expect(planRebuild(archive, { ...NO_EDITS, remove: new Set([0]) }, { scratch })).rejects.toThrow(/no list/);
    const add = [{ path: 'more.txt', bytes: bufferSource(PLAIN) }];
    await expect(planRebuild(archive, { ...NO_EDITS, add }, { scratch })).rejects.toThrow(/no list/);
  });

  test('with a TAR in it is a TAR, where a recipe describes that', async () => {
    if (tool === 'lz4') return;
    const tar = execFileSync('tar', ['-cf', '-', '-C', folder, `words.txt.${ending}`]);
    const packed = execFileSync(tool, ['-c'], { input: tar });
    const { fits } = await recogniseFile(await recipes, bufferSource(packed, 'all'));
    expect(fits.map(({ recipe }) => recipe.id)).toEqual([`tar-${tool}`]);
  });
});
