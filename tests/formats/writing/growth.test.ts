/** Fields whose size follows from what they hold. */
import { contentsOf, edited, recipeOf, refused } from './edit-file';

describe('a nested shape confined to a size that is its own length', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: NEST }
shapes:
  file:
    - { field: magic, as: ascii(4), must: NEST }
    - { field: kept, as: u16, is: length(nested) }
    - { field: nested, as: folder, size: kept }
    - { field: mark, as: ascii(4), must: DONE }
  folder: [{ field: count, as: u8, is: count(items) }, { field: items, as: 'item[count]' }]
  item: [{ field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, is: length(body) }, { field: body, as: data(size) }]
regions: [{ region: all, at: 0, holds: file }]
presents: archive
entries: { each: item in all, path: item.name }
`);
  const file = 'NEST\x0e\0\x02fox\x03FFFowl\x02OODONE';

  test('shrinks with a shorter entry', async () => {
    const made = await edited(recipe, file, { change: { fox: 'F' } });
    expect(made.toString('latin1')).toBe('NEST\x0c\0\x02fox\x01Fowl\x02OODONE');
  });
  test('grows with a longer and with a new one', async () => {
    const made = await edited(recipe, file, { change: { fox: 'FFFFFF' }, add: { hen: 'H' } });
    expect(made.toString('latin1')).toBe('NEST\x16\0\x03fox\x06FFFFFFowl\x02OOhen\x01HDONE');
  });
  test('loses a removed one', async () => {
    const made = await edited(recipe, file, { remove: ['fox'] });
    expect(made.toString('latin1')).toBe('NEST\x07\0\x01owl\x02OODONE');
  });
});

describe('a text whose length is told by another field', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: TEXT }
shapes:
  head: [{ field: magic, as: ascii(4), must: TEXT }, { field: count, as: u8, is: count(entries) }]
  row:
    - { field: nameSize, as: u8, is: 'align(length(name), 4)' }
    - { field: at, as: u8, is: entry.at }
    - { field: size, as: u8, is: entry.size }
    - { field: name, as: 'text(nameSize, ascii)', is: entry.path }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);
  const file = 'TEXT\x01\x04\x0c\x03fox\0FFF';

  test('grows for a new name, and is filled up as its size demands', async () => {
    const made = await edited(recipe, file, { add: { nightingale: 'N' } });
    expect(made.toString('latin1')).toBe('TEXT\x02\x04\x1b\x03fox\0\x0c\x1e\x01nightingale\0FFFN');
  });
  test('is short for a short one', async () => {
    const made = await edited(recipe, file, { add: { ape: 'A' } });
    expect(made.toString('latin1')).toBe('TEXT\x02\x04\x13\x03fox\0\x04\x16\x01ape\0FFFA');
  });
  test('does not grow where its size is fixed', async () => {
    const fixed = recipe
      .replace('text(nameSize, ascii)', 'text(4, ascii)')
      .replace(", is: 'align(length(name), 4)'", ', new: 4');
    expect(await refused(fixed, file, { add: { nightingale: 'N' } })).toMatchObject({
      code: 'layout-impossible',
      field: 'name',
      expected: 'at most 4 bytes',
    });
  });
});

test('fields that lie elsewhere follow their rows without gaps', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: AWAY }
shapes:
  head: [{ field: magic, as: ascii(4), must: AWAY }, { field: count, as: u8, is: count(rows) }, { field: rows, as: 'row[count]', sort: name }]
  row:
    - { field: nameAt, as: u8, is: start(name) }
    - { field: bodyAt, as: u8, is: start(body) }
    - { field: size, as: u8, is: length(body) }
    - { field: name, as: 'text(zero, ascii)', at: nameAt, is: entry.path }
    - { field: body, as: data(size), at: bodyAt, align: 4 }
regions: [{ region: all, at: 0, holds: head }]
presents: archive
entries: { each: row in all.rows, path: row.name, data: row.body }
`);
  const file = 'AWAY\x02\x0b\x10\x03\x13\x18\x02fox\0\0FFFowl\0\0OO';
  expect((await edited(recipe, file, {})).toString('latin1')).toBe(file);
  const made = await edited(recipe, file, { add: { hen: 'HHHH' }, change: { fox: 'F' } });
  expect(await contentsOf(recipe, made)).toEqual({ fox: 'F', hen: 'HHHH', owl: 'OO' });
  const names = ['fox', 'hen', 'owl'].map((name) => made.indexOf(`${name}\0`));
  expect(names).toEqual([...names].sort((a, b) => a - b));
  expect((await edited(recipe, made, { remove: ['hen'], change: { fox: 'FFF' } })).toString('latin1')).toBe(file);
});
