/** The fifth part of the proof: what people do with an archive, done and read back, or refused by name. */
import { bufferSource, memoryScratch } from '../../src/core/bytes';
import { compileRecipe, isProven, openArchive, prove } from '../../src/core/recipe';
import { editArchive, openFiles, recipeOf } from './writing/edit-file';

interface Parts {
  readonly name?: string;
  readonly path?: string;
  readonly more?: string;
  readonly top?: string;
  readonly data?: string;
}

const recipeWith = ({ name = ', is: entry.path', path = 'row.name', more = '', top = '', data = '' }: Parts = {}) =>
  recipeOf(`
match: { at: 0, bytes: EDIT }
${top}
shapes:
  head: [{ field: magic, as: ascii(4), must: EDIT }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(8)${name} }, { field: at, as: u16, is: entry.at }, { field: size, as: u16, is: entry.size }${more}]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries${data} }]
presents: archive
entries: { each: row in rows, path: '${path}', at: row.at, stored: row.size, size: row.size }
`);

/** Rows of some entries, with their bytes behind them. */
function fileOf(entries: Readonly<Record<string, string>>): Buffer {
  const rows: Buffer[] = [];
  let at = 5 + 12 * Object.keys(entries).length;
  for (const [name, bytes] of Object.entries(entries)) {
    const row = Buffer.alloc(12);
    row.write(name);
    row.writeUInt16LE(at, 8);
    row.writeUInt16LE(bytes.length, 10);
    rows.push(row);
    at += bytes.length;
  }
  const head = Buffer.from(`EDIT${String.fromCharCode(rows.length)}`, 'latin1');
  return Buffer.concat([head, ...rows, ...Object.values(entries).map((bytes) => Buffer.from(bytes))]);
}

const FILE = fileOf({ 'a/fox': 'FFFF', 'a/owl': 'OO', 'b/hen': '', 'b/pug': 'PPPPPP', 'b/yak': 'Y' });

async function proofOf(recipe: string, file = FILE) {
  const archive = await openArchive(compileRecipe(recipe), [bufferSource(file, 'sample.bin')]);
  return prove(archive, { scratch: memoryScratch() });
}

test('an id that is a hash of the path it makes ends after a few tries', async () => {
  const recipe = recipeWith()
    .replace('as: ascii(8), is: entry.path', 'as: u64, new: murmur3(entry.path)')
    .replace("path: 'row.name'", 'id: row.name, path: \'"number/" + decimal(row.name, 1)\'');
  const proof = await proofOf(recipe);
  const added = proof.edits.edits.find(({ edit }) => edit === 'added');
  expect(added).toMatchObject({ forbidden: true, fault: { code: 'check-failed' } });
}, 20_000);

test('all edits in all layouts', async () => {
  const proof = await proofOf(recipeWith());
  expect(proof.edits).toMatchObject({ done: 24, total: 24 });
  expect(proof.edits.first).toBeUndefined();
  expect(isProven(proof)).toBe(true);
});

test('a row that has no value when it is new is told, and keeps the rest', async () => {
  const { edits, ...proof } = await proofOf(recipeWith({ more: ', { field: kind, as: u8 }' }), widerRows());
  const refused = edits.edits.filter(({ fault }) => fault !== undefined);
  expect(new Set(refused.map(({ edit }) => edit))).toEqual(new Set(['added', 'added-in-folder']));
  for (const { fault, forbidden } of refused) {
    expect(forbidden).toBe(true);
    expect(fault).toMatchObject({ code: 'cannot-add', field: 'kind' });
  }
  expect(isProven({ ...proof, edits })).toBe(true);

  function widerRows(): Buffer {
    const bytes = (at: number, size: number, name: string) => {
      const row = Buffer.alloc(13);
      row.write(name);
      row.writeUInt16LE(at, 8);
      row.writeUInt16LE(size, 10);
      return row;
    };
    return Buffer.concat([
      Buffer.from('EDIT\x02'),
      bytes(31, 4, 'a/fox'),
      bytes(35, 2, 'a/owl'),
      Buffer.from('FFFFOO'),
    ]);
  }
});

test('a field that is wrong for what changes leaves the recipe unproven, with its place', async () => {
  // The size of every entry is said to be 4.
  const recipe = recipeWith().replace('is: entry.size', 'is: 4');
  const proof = await proofOf(recipe, fileOf({ fox: 'FFFF' }));
  expect(isProven(proof)).toBe(false);
  expect(proof.edits.edits.some(({ forbidden, fault }) => fault !== undefined && !forbidden)).toBe(true);
  expect(proof.edits.first).toMatchObject({ recipe: 'small', file: 'sample.bin' });
});

test('where the format keeps no names, an entry is added under the one it will have', async () => {
  const proof = await proofOf(recipeWith({ name: ', new: \'"x"\'', path: 'decimal(entry.index)' }));
  expect(proof.edits.edits.filter(({ edit }) => edit === 'added').map(({ fault }) => fault)).toEqual([
    undefined,
    undefined,
    undefined,
  ]);
});

describe('layouts', () => {
  const layoutsOf = (recipe: string) => compileRecipe(recipe).layouts;
  test('are all without a word, and without append where data is in the order of its rows', () => {
    expect(layoutsOf(recipeWith())).toEqual(['keep', 'append', 'afresh']);
    expect(layoutsOf(recipeWith({ data: ', order: rows' }))).toEqual(['keep', 'afresh']);
    expect(layoutsOf(recipeWith({ top: 'layouts: [afresh]' }))).toEqual(['afresh']);
  });
  test('that the game does not load are refused, and the preferred one is taken', async () => {
    const recipe = recipeWith({ top: 'layouts: [afresh]' });
    const archive = await openFiles(recipe, FILE);
    await expect(editArchive(archive, { change: { 'a/fox': 'G' } }, 'keep')).rejects.toMatchObject({
      fault: { code: 'layout-impossible', expected: 'afresh', found: 'keep' },
    });
    expect((await proofOf(recipe)).edits).toMatchObject({ done: 8, total: 8 });
  });
});

test('a recipe under which no edit is possible is not proven by that', async () => {
  const { edits, ...proof } = await proofOf(recipeWith());
  const refused = edits.edits.map((one) => ({ ...one, forbidden: true, fault: { code: 'cannot-add' as const } }));
  expect(isProven({ ...proof, edits: { ...edits, edits: refused, done: 0 } })).toBe(false);
});
