/** ZIP files of other programs, with whatever options these have: read, proven, edited, and read by the other program. */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { sayFault } from '../../src/core/faults';
import {
  isProven,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  recogniseFile,
  volumeBytes,
  type Archive,
} from '../../src/core/recipe';
import { loadRecipe, loadRecipes } from '../../src/core/recipe/node';

const RECIPES = join(__dirname, '..', '..', 'recipes');
const TOOL = join(__dirname, '..', 'support', 'foreign-zips.py');
const recipe = loadRecipe(join(RECIPES, 'zip-archive.yaml'));
const COUNT = 200;
const LAYOUTS = ['keep', 'append', 'afresh'] as const;

interface Made {
  readonly file: string;
  readonly password: string | null;
  /** Rows of folders; null where the program decides. */
  readonly folders: readonly string[] | null;
  readonly entries: Readonly<Record<string, string>>;
}

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-zips-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const sha = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const all = ({ entries }: Archive) => Array.from({ length: entries.count }, (_, i) => i);

async function open({ file, password }: Made, bytes: Uint8Array = readFileSync(file)): Promise<Archive> {
  const keys = new Map(password === null ? [] : [['password', Buffer.from(password)]]);
  return openArchive(await recipe, bufferSource(bytes, basename(file)), {
    keys,
  });
}

async function contents(archive: Archive): Promise<Record<string, string>> {
  const found: Record<string, string> = {};
  for (const entry of all(archive))
    if (!archive.entries.isDirectory(entry))
      found[archive.entries.path(entry)] = sha(await collect(readEntry(archive, entry)));
  return found;
}

let made: readonly Made[];
beforeAll(() => {
  execFileSync('python3', [TOOL, 'make', folder, String(COUNT)]);
  made = JSON.parse(readFileSync(join(folder, 'all.json'), 'utf8')) as Made[];
});

test('every one is recognised, and each entry comes out as it went in', async () => {
  const recipes = await loadRecipes(RECIPES);
  for (const one of made) {
    const { fits } = await recogniseFile(recipes, bufferSource(readFileSync(one.file), basename(one.file)));
    expect([one.file, fits.map((fit) => fit.recipe.id)]).toEqual([one.file, ['zip-archive']]);
    const archive = await open(one);
    expect([one.file, archive.complaints.map(sayFault)]).toEqual([one.file, []]);
    expect([one.file, await contents(archive)]).toEqual([one.file, one.entries]);
    if (one.folders !== null)
      expect(
        all(archive)
          .filter((i) => archive.entries.isDirectory(i))
          .map((i) => archive.entries.path(i)),
      ).toEqual(one.folders);
  }
});

test('every tenth proves whole', async () => {
  for (const one of made.filter((_, i) => i % 10 === 0 || i % 40 === 3)) {
    if (Object.keys(one.entries).length === 0) continue;
    const proof = await prove(await open(one), { scratch: memoryScratch() });
    const faults = [proof.bytes, proof.formulas, proof.identical, proof.changed, proof.edits].map(({ first }) => first);
    expect([one.file, faults.map((fault) => fault && sayFault(fault)), isProven(proof)]).toEqual([
      one.file,
      [undefined, undefined, undefined, undefined, undefined],
      true,
    ]);
  }
});

test('an entry replaced, one added and one removed are what another program reads', async () => {
  mkdirSync(join(folder, 'edited'));
  const wanted: Made[] = [];
  const fresh = Buffer.from('There is snow on the line. '.repeat(20));
  for (const [i, one] of made.entries()) {
    const archive = await open(one);
    const files = all(archive).filter((entry) => !archive.entries.isDirectory(entry));
    const [first, ...others] = files;
    const edits = {
      ...NO_EDITS,
      replace: new Map(first === undefined ? [] : [[first, bufferSource(fresh)]]),
      remove: new Set(others.slice(-1)),
      add: [{ path: 'added/neu ü.bin', bytes: bufferSource(fresh.subarray(3)) }],
    };
    const plan = await planRebuild(archive, edits, { layout: LAYOUTS[i % 3]!, scratch: memoryScratch() });
    const bytes = await collect(volumeBytes(plan.volumes[0]!));
    const entries: Record<string, string> = { ...one.entries, 'added/neu ü.bin': sha(fresh.subarray(3)) };
    if (first !== undefined) entries[archive.entries.path(first)] = sha(fresh);
    for (const gone of edits.remove) delete entries[archive.entries.path(gone)];
    expect([one.file, await contents(await open(one, bytes))]).toEqual([one.file, entries]);
    const file = join(folder, 'edited', basename(one.file));
    writeFileSync(file, bytes);
    wanted.push({ ...one, file, entries });
  }
  writeFileSync(join(folder, 'wanted.json'), JSON.stringify(wanted));
  expect(JSON.parse(execFileSync('python3', [TOOL, 'check', folder], { encoding: 'utf8' }))).toEqual([]);
});

test('a ZIP in a file of another format, or its mark alone, makes no ZIP of the file', async () => {
  const recipes = await loadRecipes(RECIPES);
  const zip = readFileSync(made.find(({ entries }) => Object.keys(entries).length > 0)!.file);
  const told = async (...parts: Uint8Array[]) => {
    const { fits } = await recogniseFile(recipes, bufferSource(Buffer.concat(parts), 'file'));
    return fits.map((fit) => fit.recipe.id);
  };
  expect(await told(Buffer.from('IWAD'), Buffer.alloc(100), zip)).toEqual(['wad-lumps']);
  expect(await told(Buffer.alloc(300, 7), zip)).toEqual(['zip-archive']);
  expect(await told(Buffer.alloc(300, 7), Buffer.from('PK\x05\x06', 'latin1'), Buffer.alloc(60, 9))).toEqual([]);
});

test('a packing that the recipe does not describe is told, and not read as plain bytes', async () => {
  const file = join(folder, 'other.zip');
  execFileSync('7z', ['a', '-tzip', '-mm=PPMd', file, TOOL], { stdio: 'ignore' });
  const archive = await open({ file, password: null, folders: null, entries: {} });
  await expect(collect(readEntry(archive, 0))).rejects.toThrow(/a way that the recipe does not describe/);
});

test('bytes that mark the end stand in a comment too', async () => {
  const one = made.find(({ password, entries }) => password === null && Object.keys(entries).length > 0)!;
  const bytes = readFileSync(one.file);
  const end = bytes.lastIndexOf('PK\x05\x06', undefined, 'latin1');
  const comment = Buffer.from('as in PK\x05\x06 of a ZIP, which is no end', 'latin1');
  const whole = Buffer.concat([bytes.subarray(0, end + 22), comment]);
  whole.writeUInt16LE(comment.length, end + 20);
  expect(await contents(await open(one, whole))).toEqual(one.entries);
});
