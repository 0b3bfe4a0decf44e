/** Whatever is wrong, in the file or in the recipe, is told with its place. */
import { bufferSource, memoryScratch } from '../../src/core/bytes';
import { isFaultError, type Fault } from '../../src/core/faults';
import { compileRecipe, NO_EDITS, openArchive, planRebuild, prove } from '../../src/core/recipe';
import { recipeOf } from './writing/edit-file';

/** A plain archive of two entries, with parts of its recipe exchanged. */
function recipeWith(
  parts: Partial<Record<'name' | 'path' | 'at' | 'stored' | 'size' | 'more' | 'region', string>> = {},
) {
  const { name, path, at, stored, size, more, region } = {
    ...{ name: 'ascii(3)', path: 'row.name', at: 'row.at', stored: 'row.size', size: 'row.size', more: '', region: '' },
    ...parts,
  };
  return recipeOf(`
match: { at: 0, bytes: AAAA }
shapes:
  head: [{ field: magic, as: ascii(4), must: AAAA }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: '${name}', is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }${more}]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }${region}, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: '${path}', at: '${at}', stored: '${stored}', size: '${size}' }
`);
}
const FILE = 'AAAA\x02fox\x0f\x03owl\x12\x02FFFOO';

/** Every fault of opening, proving and writing. */
async function faultsOf(recipe: string, file = FILE): Promise<readonly Fault[]> {
  const faults: Fault[] = [];
  try {
    const archive = await openArchive(compileRecipe(recipe), [bufferSource(Buffer.from(file, 'latin1'), 'sample.bin')]);
    faults.push(...archive.complaints);
    const { bytes, formulas, identical, changed } = await prove(archive, { scratch: memoryScratch() });
    for (const { first } of [bytes, formulas, identical, changed]) if (first !== undefined) faults.push(first);
    const add = [{ path: 'hen', bytes: bufferSource(Buffer.from('HH')) }];
    const replace = new Map([[0, bufferSource(Buffer.from('GGGG'))]]);
    await planRebuild(archive, { ...NO_EDITS, add, replace }, { scratch: memoryScratch() });
  } catch (error) {
    if (!isFaultError(error)) throw error;
    faults.push(error.fault);
  }
  return faults;
}

test('nothing is wrong with the plain archive', async () => {
  expect(await faultsOf(recipeWith())).toEqual([]);
});

test.each<[string, string, string?]>([
  ['a text is not in its encoding', recipeWith({ name: 'text(3, utf-8)' }), FILE.replace('fox', 'f\xffx')],
  ['a text and a number are added', recipeWith({ path: 'row.name + row.at' })],
  ['a text and a number are compared', recipeWith({ stored: 'if(row.name > 3, 1, row.size)' })],
  ['a list has no such row', recipeWith({ at: 'rows[9].at' })],
  ['something is divided by 0', recipeWith({ at: 'row.at / (row.size - row.size)' })],
  ['a number is shifted too far', recipeWith({ at: 'row.at << 99' })],
  ['a text is wanted of a number', recipeWith({ at: 'stem(row.at)' })],
  ['a hash is made of a number', recipeWith({ more: ', { field: sum, as: u8, is: crc32(5) }' })],
  ['a length is below 0', recipeWith({ more: ', { field: rest, as: bytes(size - 200) }' })],
  ['a count is below 0', recipeWith({ more: ', { field: rest, as: "u8[size - 200]" }' })],
  ['a field is not what it must be', recipeWith({ more: ', { field: kind, as: u8, must: 7 }' })],
  ['a value does not fit its field', recipeWith({ more: ', { field: kind, as: u8, is: entry.path }' })],
  [
    'an offset leads out of its pool',
    recipeWith({
      path: 'text-at(names, row.at + 900)',
      region: ', { region: names, at: 15, length: 0, holds: "pool(zero, utf-8)" }',
    }),
  ],
])('%s: file, recipe, line and offset or field are told', async (_, recipe, file = FILE) => {
  const faults = await faultsOf(recipe, file);
  expect(faults.length).toBeGreaterThan(0);
  for (const fault of faults) {
    expect(fault).toMatchObject({ recipe: 'small', file: 'sample.bin' });
    // Bytes no one explains and pointers out of the file are in no line of the recipe.
    if (fault.code !== 'outside-file' && fault.code !== 'not-reproduced')
      expect(fault).toMatchObject({ line: expect.any(Number) });
    expect(fault.offset ?? fault.field ?? fault.entry ?? fault.region).toBeDefined();
  }
});

test('a path that cannot be read is the fault, not the field that disagrees with it', async () => {
  const [fault] = await faultsOf(recipeWith({ path: 'row.name + row.at' }));
  expect(fault).toMatchObject({ what: '+ cannot work on this', offset: 5, region: 'rows' });
});

describe('names that hide a built-in word', () => {
  const compiled = (recipe: string) => {
    try {
      compileRecipe(recipe);
    } catch (error) {
      if (isFaultError(error)) return error.fault;
      throw error;
    }
    return undefined;
  };
  test('of a region, where it is used', () => {
    const recipe = recipeWith({ at: 'row.at + index.first', more: '' }).replace(
      '{ region: data,',
      '{ region: index, at: 0, holds: one }, { region: data,',
    );
    const withShape = recipe.replace('shapes:\n', 'shapes:\n  one: [{ field: first, as: u8 }]\n');
    expect(compiled(withShape)).toMatchObject({
      code: 'recipe-invalid',
      line: expect.any(Number),
      what: 'index is a built-in word, and a region is called so',
    });
    expect(compiled(withShape.replaceAll('index', 'toc'))).toBeUndefined();
  });
  test('of a row', () => {
    expect(compiled(recipeWith().replace('row in rows', 'entry in rows').replaceAll("'row.", "'entry."))).toMatchObject(
      { what: 'entry is a built-in word, and a row is called so', hint: 'Give it another name.' },
    );
  });
  test('but a field may be called so', () => {
    expect(compiled(recipeWith({ more: ', { field: index, as: u8 }, { field: twice, as: "bytes(index)" }' }))).toBe(
      undefined,
    );
  });
});
