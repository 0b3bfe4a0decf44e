/** docs/recipes.md against the code: its examples are run, and every word is in it. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { codecNames, findCodec, hasherNames, hashOf, KEY_KINDS, prepareCodecs } from '../../src/core/codecs';
import { sayFault } from '../../src/core/faults';
import { readRecipeClip, readRecipeMesh, writeRecipeClip, writeRecipeMesh } from '../../src/core/forms/mesh';
import { readRecipeRecords, withRecipeCell } from '../../src/core/forms/records';
import {
  cutRectangle,
  pasteRectangles,
  readRecipePicture,
  rectanglesOf,
  writeRecipePicture,
} from '../../src/core/forms/picture';
import {
  compileRecipe,
  DEFAULT_LIMITS,
  explainRegion,
  isProven,
  LAYOUTS,
  openArchive,
  planNew,
  planRebuild,
  prove,
  readEntry,
  vocabulary,
  volumeBytes,
} from '../../src/core/recipe';

const text = readFileSync(join(__dirname, '../../docs/recipes.md'), 'utf8');
const examples = text + readFileSync(join(__dirname, '../../docs/recipe-examples.md'), 'utf8');
const recipes = [...examples.matchAll(/```yaml\n([\s\S]*?)```/g)].map(([, block]) => block!);
const recipeOf = (id: string) => compileRecipe(recipes.find((block) => block.includes(`recipe: ${id}\n`))!);
const hexOf = (id: string) =>
  Buffer.from(new RegExp(`\`\`\`hex ${id}\n([\\s\\S]*?)\`\`\``).exec(text)![1]!.replace(/\s/g, ''), 'hex');
const bytesOf = (hex: string) => Buffer.from(hex.replace(/\s/g, ''), 'hex');
/** Rows of a table whose first cells are code. */
const rows = (heading: string) => {
  const from = text.indexOf(`\n## ${heading}\n`);
  const section = text.slice(from, text.indexOf('\n## ', from + 5));
  return section
    .split('\n')
    .filter((line) => line.startsWith('| `'))
    .map((line) =>
      line
        .split(/(?<!\\)\|/)
        .slice(1, -1)
        .map((cell) => cell.trim().replaceAll('\\|', '|')),
    );
};
const code = (cell: string) => /^`(.*)`$/.exec(cell)?.[1] ?? '';

beforeAll(prepareCodecs);

test('the first recipe reads its file', async () => {
  const note = findCodec('zlib')!.encode(Buffer.from('mind the gap, please'), { params: {}, maxPlainBytes: 99 });
  const head = hexOf('depot');
  // The page shows the table; the files follow: one as it is, one packed.
  head.writeUInt32LE(note.length, head.length - 8);
  const bytes = Buffer.concat([head, Buffer.alloc(44 - head.length)]);
  bytes.writeUInt32LE(44, 14);
  bytes.writeUInt32LE(48, 31);
  const file = Buffer.concat([bytes, Buffer.from('hi!\0'), note]);
  const archive = await openArchive(recipeOf('parcel-archive'), bufferSource(file));
  expect(archive.complaints).toEqual([]);
  expect(Buffer.from(await collect(readEntry(archive, 1))).toString()).toBe('mind the gap, please');
  expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
});

test('the example of fields elsewhere proves on its file', async () => {
  const archive = await openArchive(recipeOf('far-names'), bufferSource(hexOf('far-names')));
  expect(archive.entries.path(0)).toBe('rope.txt');
  const proof = await prove(archive, { scratch: memoryScratch() });
  expect(Object.values(proof).flatMap(({ first }) => (first === undefined ? [] : [sayFault(first)]))).toEqual([]);
  expect(isProven(proof)).toBe(true);
});

test('the example of a sheet gives its small pictures, and takes one back', async () => {
  const sheet = await readRecipePicture(recipeOf('small-sheet'), [bufferSource(hexOf('small-sheet'), 'a.sht')]);
  const [first, second] = rectanglesOf(sheet);
  expect([first!.name, second!.name]).toEqual(['a', 'b']);
  const grey = (at: typeof first) => [...cutRectangle(sheet.picture, at!).levels[0]!];
  expect([grey(first), grey(second)]).toEqual([
    [0x10, 0x11, 0x20, 0x21],
    [0x22, 0x23, 0x32, 0x33],
  ]);
  const small = { ...cutRectangle(sheet.picture, second!), levels: [Uint8Array.of(1, 2, 3, 4)] };
  const next = pasteRectangles(sheet.picture, [{ place: second!, picture: small }], 'best');
  const [written] = await writeRecipePicture(sheet, next);
  expect([...written!.slice(16)]).toEqual([16, 17, 18, 19, 32, 33, 1, 2, 48, 49, 3, 4, 64, 65, 66, 67]);
});

test('the example of a picture is read, and written with other pixels', async () => {
  const file = bufferSource(hexOf('small-picture'), 'a.pict');
  const found = await readRecipePicture(recipeOf('small-picture'), [file]);
  expect(found.file.complaints).toEqual([]);
  expect(found.picture).toMatchObject({ width: 2, height: 2, mips: 2, srgb: false });
  expect(found.picture.levels.map((level) => [...level])).toEqual([[0x10, 0x20, 0x30, 0x40], [0x28]]);
  const levels = [Uint8Array.of(1, 2, 3, 4), Uint8Array.of(2)];
  const [written] = await writeRecipePicture(found, { ...found.picture, levels });
  const again = await readRecipePicture(recipeOf('small-picture'), [bufferSource(written!, 'a.pict')]);
  expect(again.file.complaints).toEqual([]);
  expect(again.picture.levels.map((level) => [...level])).toEqual([[1, 2, 3, 4], [2]]);
  expect(isProven(await prove(again.file, { scratch: memoryScratch() }))).toBe(true);
});

/** Reads one value of a kind by a recipe made for it. */
async function valueOf(kind: string, stored: Buffer): Promise<string> {
  const recipe = compileRecipe(`
recipe: one
title: One
revision: 1
numbers: little
shapes:
  head: [{ field: value, as: ${JSON.stringify(kind)} }]
  row: [{ field: body, as: data(0) }]
  rows: [{ field: rows, as: "row[0]" }]
regions:
  - { region: head, at: 0, length: ${stored.length}, holds: head }
  - { region: rows, at: ${stored.length}, holds: rows }
presents: archive
entries: { each: row in rows.rows }
`);
  const archive = await openArchive(recipe, bufferSource(stored));
  const found = archive.regions.get(0)!;
  const [field] = await explainRegion(archive, found, () => true);
  if (field === undefined)
    return `${(found.column!.get(0) as { get(i: number): { length: number } }).get(0).length} items`;
  const plain = await prove(archive, { scratch: memoryScratch() });
  expect(plain.identical.same).toBe(true);
  return field.value;
}

test.each(
  rows('Kinds')
    .filter(([, stored]) => code(stored ?? '') !== '')
    .map((cells) => cells.slice(0, 3).map(code)),
)('%s of %s is %s', async (kind, stored, value) => {
  expect((await valueOf(kind!, bytesOf(stored!))).replaceAll(',', '')).toBe(value);
});

/** Evaluates a formula in the place of a condition that decides whether the file opens. */
async function holds(formula: string): Promise<boolean> {
  const recipe = compileRecipe(`
recipe: one
title: One
revision: 1
numbers: little
shapes:
  head: [{ field: value, as: u8, is: ${JSON.stringify(`if(${formula}, 1, 0)`)} }]
  row: [{ field: body, as: data(0) }]
  rows: [{ field: rows, as: "row[0]" }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 1, holds: rows }
presents: archive
entries: { each: row in rows.rows }
`);
  const archive = await openArchive(recipe, bufferSource(Uint8Array.of(1)));
  return archive.complaints.length === 0;
}

const functionExamples = rows('Functions').flatMap(([, , example]) => {
  const match = /^`(.*)` is `(.*)`$/.exec(example ?? '');
  return match === null ? [] : [[match[1]!, match[2]!] as const];
});

test.each(functionExamples)('%s is %s', async (formula, value) => {
  expect(await holds(`(${formula}) == (${value})`)).toBe(true);
  expect(await holds(`(${formula}) != (${value})`)).toBe(false);
});

test.each(
  rows('Hashes')
    .filter(([, , , digest]) => code(digest ?? '') !== '')
    .map(([name, , , digest]) => [code(name!), code(digest!)]),
)('%s of "123456789" is %s', (name, digest) => {
  const found = hashOf(name!, Buffer.from('123456789'));
  expect(
    found instanceof Uint8Array ? Buffer.from(found).toString('hex') : `0x${found.toString(16).toUpperCase()}`,
  ).toBe(digest);
});

/** Its shortest stretch begins with 256 bytes of code lengths; the published ones are tests of the step itself. */
const WITHOUT_EXAMPLE = ['xpress-huffman'];

test.each(
  rows('Steps')
    .map(([step, , stored, plain]) => [code(step!), code(stored!), code(plain!)] as const)
    .filter(([step]) => !WITHOUT_EXAMPLE.includes(step)),
)('%s gives the plain bytes', async (step, stored, plain) => {
  const recipe = compileRecipe(`
recipe: one
title: One
revision: 1
numbers: little
shapes:
  row: [{ field: body, as: data(rest) }]
  rows: [{ field: rows, as: "row[1]" }]
regions:
  - { region: rows, at: 0, holds: rows }
presents: archive
entries: { each: row in rows.rows, size: ${bytesOf(plain!).length}, through: [${JSON.stringify(step)}] }
`);
  const archive = await openArchive(recipe, bufferSource(bytesOf(stored!)));
  expect(Buffer.from(await collect(readEntry(archive, 0))).toString('hex')).toBe(bytesOf(plain!).toString('hex'));
});

const { words, kinds, functions } = vocabulary();

test('every step, hash, kind, function, key, limit and layout is in the reference', () => {
  const called = (name: string) => new RegExp(`\`${name.replaceAll('-', '\\-')}(\\(|\`)`);
  const names = [...codecNames(), ...hasherNames(), ...functions.map(([name]) => name)];
  for (const name of names) expect([name, called(name).test(text)]).toEqual([name, true]);
  for (const [kind] of kinds) expect([kind, called(kind.replace(/\(.*/, '')).test(text)]).toEqual([kind, true]);
  for (const name of [...Object.keys(KEY_KINDS), ...Object.keys(DEFAULT_LIMITS), ...LAYOUTS])
    expect(text).toContain(`\`${name}\``);
});

test('the examples of a mesh and a clip read, prove, and are written as they were', async () => {
  const mesh = await readRecipeMesh(recipeOf('small-mesh'), [bufferSource(hexOf('small-mesh'), 'a.msh')]);
  expect(mesh.mesh).toMatchObject({
    ...{ unit: 0.01, up: 'z', materials: [{ name: 'red', textures: ['a.pg'] }] },
    joints: [{ name: 'root', parent: -1, at: [0, 0, 0], turn: [0, 0, 0, 1] }],
    levels: [{ from: 0, parts: [{ indices: Uint32Array.of(0, 1, 2) }] }],
  });
  expect([...mesh.mesh.levels[0]!.parts[0]!.positions]).toEqual([0, 0, 0, 2, 0, 0, 0, 2, 0]);
  expect(isProven(await prove(mesh.file, { scratch: memoryScratch() }))).toBe(true);
  expect(Buffer.from((await writeRecipeMesh(mesh, mesh.mesh.levels))[0]!)).toEqual(hexOf('small-mesh'));
  const clip = await readRecipeClip(recipeOf('small-clip'), bufferSource(hexOf('small-clip'), 'b.clp'));
  expect(clip).toMatchObject({ mesh: 'a.msh', clip: { name: 'b', rate: 12, frames: 2, joints: 1, loops: true } });
  expect([...clip.clip.turns]).toEqual([0, 0, 0, 1, 0, 1, 0, 0]);
  expect(Buffer.from(await writeRecipeClip(clip, clip.clip))).toEqual(hexOf('small-clip'));
});

test('the example of records is read, one value is changed, and what follows it is right', async () => {
  const recipe = recipeOf('small-table');
  const file = (bytes: Uint8Array) => bufferSource(bytes, 'stock/shelf_3.tbl');
  const bytes = hexOf('small-table');
  const table = 'stock/shelf_*.tbl#parcels';
  expect(await readRecipeRecords(recipe, file(bytes))).toEqual([
    { table, pointer: ['parcels', 0], values: { id: 1, name: 'bell', grams: 250, mode: 'by-day' } },
    { table, pointer: ['parcels', 1], values: { id: 2, name: 'map', grams: 40, mode: 'by-night' } },
  ]);
  const set = (column: string, typed: string) => withRecipeCell(recipe, file(bytes), ['parcels', 1], column, typed);
  const longer = await set('name', 'a large map');
  const [, row] = await readRecipeRecords(recipe, file(longer));
  expect(row!.values).toEqual({ id: 2, name: 'a large map', grams: 40, mode: 'by-night' });
  const archive = await openArchive(recipe, file(longer));
  expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
  expect((await readRecipeRecords(recipe, file(await set('mode', 'by-day'))))[1]!.values['mode']).toBe('by-day');
  const refused = (expected: string) => expect.objectContaining({ fault: expect.objectContaining({ expected }) });
  await expect(set('grams', 'heavy')).rejects.toEqual(refused('a number'));
  await expect(set('mode', 'by-noon')).rejects.toEqual(refused('one of by-day, by-night'));
});

test('the example of bytes in rows or elsewhere keeps what fits in the row, and puts the rest behind', async () => {
  const recipe = recipeOf('row-or-region');
  const archive = await openArchive(recipe, bufferSource(hexOf('row-or-region'), 'a.bin'));
  const [small, large] = [bufferSource(Buffer.from('four'), 'small'), bufferSource(Buffer.from('longer'), 'large')];
  const planned = async (bytes: typeof small) => {
    const edits = { replace: new Map([[0, bytes]]), add: [], remove: new Set<number>() };
    const { volumes } = await planRebuild(archive, edits, { scratch: memoryScratch() });
    const chunks: Uint8Array[] = [];
    for await (const chunk of volumeBytes(volumes[0]!)) chunks.push(chunk);
    return Buffer.concat(chunks).toString('latin1');
  };
  expect(await planned(small)).toBe('EITH\x01\x03fox\0\0\0\0\x04\0\0\0four\xff');
  expect(await planned(large)).toBe('EITH\x01\x03fox\x12\0\0\0\x06\0\0\0\xfflonger');
});

test('every word of the schema is explained, and nearly all stand in a recipe that is run', () => {
  expect(words.length).toBeGreaterThan(60);
  for (const [word] of words)
    expect([word, text.includes(`\`${word}\``) || new RegExp(`\`[^\`]*\\b${word}\\b`).test(text)]).toEqual([
      word,
      true,
    ]);
});

test('recipes that ship stand in the examples as they are, and the examples have one of each kind', () => {
  const shipped = recipes.flatMap((block) => {
    const id = /^recipe: (.+)$/m.exec(block)![1]!;
    const path = join(__dirname, '../../recipes', `${id}.yaml`);
    return existsSync(path) ? [[id, block, readFileSync(path, 'utf8').replace(/^(#.*\n)+/, '')] as const] : [];
  });
  expect(shipped.map(([id]) => id)).toEqual(['prop-crate', 'hold-archive', 'voice-cues', 'sealed-journal']);
  for (const [, block, file] of shipped) expect(block).toBe(file);
});

/** They take something from a file that is there: a row that ends the table, a tag. */
const NEVER_NEW = new Set(['chunk-stream', 'offset-seeds']);
const archives = recipes.filter((block) => /^presents: archive/mu.test(block) && !/^(needs|volumes):/mu.test(block));

test.each(archives.map((block) => [/^recipe: (\S+)/mu.exec(block)![1]!, block] as const))(
  'the example %s makes an archive from nothing and proves on it, or says why not',
  async (id, block) => {
    const recipe = compileRecipe(block);
    const add = ['a/one', 'a/two', 'three'].map((path, i) => ({
      path,
      bytes: bufferSource(Buffer.from('lanterns '.repeat(i * 9 + 1)), path),
    }));
    const planned = planNew(recipe, add, { scratch: memoryScratch() });
    if (NEVER_NEW.has(id)) return expect(planned).rejects.toMatchObject({ fault: { recipe: id } });
    const plan = await planned;
    const bytes = await collect(volumeBytes(plan.volumes[0]!));
    const archive = await openArchive(recipe, bufferSource(bytes, 'made.bin'), { names: add.map(({ path }) => path) });
    const proof = await prove(archive, { scratch: memoryScratch() });
    expect(Object.values(proof).flatMap(({ first }) => (first === undefined ? [] : [sayFault(first)]))).toEqual([]);
    expect(isProven(proof)).toBe(true);
  },
);
