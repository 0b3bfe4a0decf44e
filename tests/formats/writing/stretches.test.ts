/** Texts, lists and rows that end by what is in them or behind them: read, changed, and judged by hand. */
import { contentsOf, edited, openFiles, recipeOf, refused, isProvenWhole } from './edit-file';

describe('texts that another byte ends', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: LINE }
shapes:
  head: [{ field: magic, as: ascii(4), must: LINE }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: 'text(until(0x0A), utf-8)', is: entry.path }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: row.name }
`);
  const file = 'LINE\x02fox\n\x02FFowl\n\x01O';
  test('are read and written', async () => {
    expect(await contentsOf(recipe, file)).toEqual({ fox: 'FF', owl: 'O' });
    const made = await edited(recipe, file, { add: { 'a/longer name': 'NEW' }, change: { fox: '' } });
    expect(made.toString('latin1')).toBe('LINE\x03fox\n\x00owl\n\x01Oa/longer name\n\x03NEW');
    expect(await isProvenWhole(recipe, file)).toBe(true);
  });
  test('cannot hold it', async () => {
    expect(await refused(recipe, file, { add: { 'a\nb': 'NEW' } })).toMatchObject({
      code: 'layout-impossible',
      field: 'name',
      expected: 'a text without 0x0A, which ends it',
    });
  });
});

test('a pool of lines', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: POOL }
shapes:
  head: [{ field: magic, as: ascii(4), must: POOL }, { field: count, as: u8, is: count(entries) }, { field: names, as: u8, is: length(names) }]
  row: [{ field: name, as: u8, is: 'place(names, entry.path)' }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 6, holds: 'row[head.count]' }
  - { region: names, at: 6 + head.count * 2, length: head.names, holds: 'pool(until(0x7C), utf-8)' }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in rows, path: 'text-at(names, row.name)', at: 'if(entry.index == 0, start(names) + length(names), previous.end)', stored: row.size, size: row.size }
`);
  const file = 'POOL\x02\x08\x00\x02\x04\x01fox|owl|FFO';
  expect(await contentsOf(recipe, file)).toEqual({ fox: 'FF', owl: 'O' });
  const made = await edited(recipe, file, { add: { yak: 'NEW' } });
  expect(made.toString('latin1')).toBe('POOL\x03\x0c\x00\x02\x04\x01\x08\x03fox|owl|yak|FFONEW');
});

describe('a list that ends before what does not belong to it', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: LOOK }
shapes:
  whole:
    - { field: magic, as: ascii(4), must: LOOK }
    - { field: rows, as: 'row[while item.tag == "ROW1"]' }
    - { field: end, as: ascii(3), must: END }
    - { field: count, as: u8, is: count(rows) }
  row:
    - { field: tag, as: ascii(4), new: '"ROW1"' }
    - { field: name, as: text(u8, ascii), is: entry.path }
    - { field: size, as: u8, is: entry.size }
    - { field: body, as: data(size) }
regions: [{ region: whole, at: 0, holds: whole }]
presents: archive
entries: { each: row in whole.rows, path: row.name }
`);
  const file = 'LOOKROW1\x03fox\x02FFROW1\x03owl\x01OEND\x02';
  test('is read, added to, and emptied', async () => {
    expect(await contentsOf(recipe, file)).toEqual({ fox: 'FF', owl: 'O' });
    const made = await edited(recipe, file, { add: { yak: 'NEW' }, remove: ['fox'] });
    expect(made.toString('latin1')).toBe('LOOKROW1\x03owl\x01OROW1\x03yak\x03NEWEND\x02');
    const none = await edited(recipe, file, { remove: ['fox', 'owl'] });
    expect(none.toString('latin1')).toBe('LOOKEND\x00');
    expect(await contentsOf(recipe, none)).toEqual({});
    expect(await isProvenWhole(recipe, file)).toBe(true);
  });
});

describe('what a field must not be', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: NOTS }
shapes:
  head:
    - { field: magic, as: ascii(4), must: NOTS }
    - { field: kind, as: u8, must: { not: [0, 255] } }
    - { field: shift, as: i8, must: -5..5 }
    - { field: name, as: ascii(3), must: { not: end } }
    - { field: rows, as: row[to end] }
  row: [{ field: name, as: text(u8, ascii), is: entry.path }, { field: kind, as: u8, must: { not: 0 }, new: 9 }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }]
presents: archive
entries: { each: row in head.rows, path: row.name }
`);
  const file = 'NOTS\x01\xfbabc\x03fox\x01\x02FF';
  test('is told', async () => {
    expect(await contentsOf(recipe, file)).toEqual({ fox: 'FF' });
    expect(await isProvenWhole(recipe, file)).toBe(true);
    for (const [wrong, field] of [
      [file.replace('\x01\xfb', '\x00\xfb'), 'kind'],
      [file.replace('\x01\xfb', '\xff\xfb'), 'kind'],
      [file.replace('\xfb', '\xfa'), 'shift'],
      [file.replace('abc', 'end'), 'name'],
    ] as const)
      await expect(openFiles(recipe, wrong)).rejects.toMatchObject({ fault: { code: 'must-differs', field } });
  });
  test('is no value for a new row', async () => {
    const without = recipe.replace('must: { not: 0 }, new: 9', 'must: { not: 0 }');
    expect(await refused(without, file, { add: { owl: 'O' } })).toMatchObject({ code: 'cannot-add', field: 'kind' });
    const made = await edited(recipe, file, { add: { owl: 'O' } });
    expect(made.toString('latin1')).toBe(`${file}\x03owl\x09\x01O`);
  });
});

describe('fill behind the last entry', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: TAIL }
shapes:
  head: [{ field: magic, as: ascii(4), must: TAIL }, { field: count, as: u8, is: count(entries) }, { field: rows, as: 'row[count]' }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
  foot: [{ field: magic, as: ascii(4), must: FOOT }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: data, holds: entries, tail: 16, fill: 0x20 }
  - { region: foot, at: end - 4, holds: foot }
presents: archive
entries: { each: row in head.rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);
  const file = 'TAIL\x02fox\x0f\x02owl\x11\x01FFO              FOOT';
  test.each(['keep', 'afresh', 'append'] as const)(
    'ends at the next multiple and no later, with %s',
    async (layout) => {
      const made = await edited(recipe, file, { add: { emu: 'NEW' } }, layout);
      expect(made.toString('latin1')).toBe('TAIL\x03fox\x14\x02owl\x16\x01emu\x17\x03FFONEW      FOOT');
      const larger = await edited(recipe, file, { change: { owl: 'N'.repeat(30) } }, layout);
      expect(larger.length).toBe(52);
      const none = await edited(recipe, file, { remove: ['fox', 'owl'] }, layout);
      expect(none.toString('latin1')).toBe(`TAIL\0${' '.repeat(11)}FOOT`);
    },
  );
  test('proves', async () => expect(await isProvenWhole(recipe, file)).toBe(true));
});

test('fill that was found behind the last entry goes up to a multiple of what entries start at', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: TAIL }
shapes:
  head: [{ field: magic, as: ascii(4), must: TAIL }, { field: count, as: u8, is: count(entries) }, { field: rows, as: 'row[count]' }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: data, holds: entries, align: 8 }]
presents: archive
entries: { each: row in head.rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);
  const file = 'TAIL\x02fox\x10\x02owl\x18\x01\0FF\0\0\0\0\0\0O\0\0\0\0\0\0\0';
  expect((await edited(recipe, file, { add: { emu: 'NEW' } })).length).toBe(48);
});
