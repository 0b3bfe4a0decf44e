/** Rows, and data in the order of rows: what belongs together moves together. */
import { contentsOf, edited, recipeOf } from './edit-file';

describe('a list that is sorted, and one beside it that is not', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SIDE }
shapes:
  head:
    - { field: magic, as: ascii(4), must: SIDE }
    - { field: count, as: u8, is: count(entries) }
    - { field: titles, as: title[count], sort: text }
    - { field: places, as: place[count] }
  title: [{ field: text, as: text(zero, ascii), is: entry.path }]
  place: [{ field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: data, holds: entries }]
presents: archive
entries: { each: title in head.titles, beside: [place in head.places], path: title.text, at: place.at, stored: place.size, size: place.size }
`);
  const file = 'SIDE\x02fox\0owl\0\x11\x03\x14\x02FFFOO';

  test.each(['keep', 'append', 'afresh'] as const)('both take a new row at its place (%s)', async (layout) => {
    const made = await edited(recipe, file, { add: { hen: 'HHHH', ape: 'A' } }, layout);
    expect(await contentsOf(recipe, made)).toEqual({ ape: 'A', fox: 'FFF', hen: 'HHHH', owl: 'OO' });
    expect(made.subarray(5, 21).toString('latin1')).toBe('ape\0fox\0hen\0owl\0');
    expect(made.subarray(-10).toString('latin1')).toBe('AFFFHHHHOO');
  });

  test('both lose the row of a removed entry', async () => {
    const made = await edited(recipe, file, { remove: ['fox'] });
    expect(made.toString('latin1')).toBe('SIDE\x01owl\0\x0b\x02OO');
  });
});

describe('data whose place is worked out from the entry before', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: NEXT }
shapes:
  head:
    - { field: magic, as: ascii(4), must: NEXT }
    - { field: count, as: u8, is: count(entries) }
    - { field: rows, as: row[count], sort: name }
  row: [{ field: name, as: text(u8, ascii), is: entry.path }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: data, holds: entries }]
presents: archive
entries: { each: row in head.rows, path: row.name, at: 'if(entry.index == 0, start(data), previous.end)', stored: row.size, size: row.size }
`);
  const file = 'NEXT\x02\x03fox\x03\x03owl\x02FFFOO';

  test.each(['keep', 'append', 'afresh'] as const)('lies in the order of the rows (%s)', async (layout) => {
    const made = await edited(recipe, file, { add: { hen: 'HHHH' }, change: { fox: 'F' } }, layout);
    expect(made.toString('latin1')).toBe('NEXT\x03\x03fox\x01\x03hen\x04\x03owl\x02FHHHHOO');
  });
});

test('a pool that lies in the order of the rows grows in that order', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: POOL }
shapes:
  head: [{ field: magic, as: ascii(4), must: POOL }, { field: count, as: u8, is: count(entries) }, { field: size, as: u8, is: length(names) }]
  row: [{ field: name, as: u8, is: 'place(names, entry.path)' }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 6, holds: 'row[head.count]', sort: 'text-at(names, name)' }
  - { region: names, at: 6 + head.count * 3, length: head.size, holds: 'pool(zero, ascii)' }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in rows, path: 'text-at(names, row.name)', at: row.at, stored: row.size, size: row.size }
`);
  const file = 'POOL\x02\x08\x00\x14\x03\x04\x17\x02fox\0owl\0FFFOO';
  const made = await edited(recipe, file, { add: { hen: 'HHHH' }, remove: [] });
  expect(made.toString('latin1')).toBe('POOL\x03\x0c\x00\x1b\x03\x04\x1e\x04\x08\x22\x02fox\0hen\0owl\0FFFHHHHOO');
  // What no row points at any more goes as well.
  expect((await edited(recipe, made, { remove: ['hen'] })).toString('latin1')).toBe(file);
});

test('a running sum over sorted rows follows their order', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SUMS }
shapes:
  head:
    - { field: magic, as: ascii(4), must: SUMS }
    - { field: count, as: u8, is: count(entries) }
    - { field: rows, as: row[count], sort: name }
  row:
    - { field: name, as: ascii(3), is: entry.path }
    - { field: until, as: u8, is: 'if(index == 0, 0, outer.rows[index - 1].until) + size' }
    - { field: size, as: u8, is: entry.size }
regions: [{ region: head, at: 0, holds: head }, { region: data, holds: entries }]
presents: archive
entries: { each: row in head.rows, path: row.name, at: start(data) + row.until - row.size, stored: row.size, size: row.size }
`);
  const made = await edited(recipe, 'SUMS\x02fox\x03\x03owl\x05\x02FFFOO', { add: { hen: 'HHHH' } });
  expect(made.toString('latin1')).toBe('SUMS\x03fox\x03\x03hen\x07\x04owl\x09\x02FFFHHHHOO');
});

test('running sums over many rows take no deep recursion, whichever end is asked first', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: LONG }
shapes:
  head:
    - { field: magic, as: ascii(4), must: LONG }
    - { field: count, as: u16, is: count(entries) }
    - { field: total, as: u32, is: rows[count - 1].until }
    - { field: rows, as: row[count] }
  row:
    - { field: name, as: text(u8, ascii), is: entry.path }
    - { field: until, as: u32, is: 'if(index == 0, 0, outer.rows[index - 1].until) + size' }
    - { field: size, as: u8, is: entry.size }
regions: [{ region: head, at: 0, holds: head }, { region: data, holds: entries }]
presents: archive
entries: { each: row in head.rows, path: row.name, at: start(data) + row.until - row.size, stored: row.size, size: row.size }
`);
  const count = 5000;
  const head = Buffer.alloc(10);
  head.write('LONG', 'latin1');
  head.writeUInt16LE(count, 4);
  head.writeUInt32LE(count, 6);
  const rows = Array.from({ length: count }, (_, i) => {
    const row = Buffer.alloc(11);
    row[0] = 5;
    row.write(String(10000 + i), 1, 'latin1');
    row.writeUInt32LE(i + 1, 6);
    row[10] = 1;
    return row;
  });
  const file = Buffer.concat([head, ...rows, Buffer.alloc(count, 7)]);
  const made = await edited(recipe, file, { change: { 10000: 'ab' } });
  expect(made.readUInt32LE(6)).toBe(count + 1);
  expect(made.length).toBe(file.length + 1);
});

describe('gaps', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: GAPS }
shapes:
  head:
    - { field: magic, as: ascii(4), must: GAPS }
    - { field: count, as: u8, is: count(entries) }
    - { field: room, as: u8, is: length(data) }
    - { field: rows, as: row[count] }
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: data, holds: entries }]
presents: archive
entries: { each: row in head.rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);

  test('in front of the first entry stays, and what is told of the whole agrees', async () => {
    const file = 'GAPS\x02\x08fox\x13\x03owl\x16\x02\0\0\0FFFOO';
    expect((await edited(recipe, file, {})).toString('latin1')).toBe(file);
  });

  test('are not left where there were none', async () => {
    const made = await edited(recipe, 'GAPS\x02\x05fox\x10\x03owl\x13\x02FFFOO', { remove: ['fox'] });
    expect(made.toString('latin1')).toBe('GAPS\x01\x02owl\x0b\x02OO');
  });

  test('are left where the recipe says so', async () => {
    const loose = recipe
      .replace('holds: entries }]', 'holds: entries, gaps: kept, order: any }]')
      .replace(', is: length(data)', '');
    const made = await edited(loose, 'GAPS\x02\x05fox\x10\x03owl\x13\x02FFFOO', { change: { fox: 'F' } });
    expect(made.toString('latin1')).toBe('GAPS\x02\x05fox\x10\x01owl\x13\x02F\0\0OO');
    const grown = await edited(loose, 'GAPS\x02\x05fox\x10\x03owl\x13\x02FFFOO', { change: { fox: 'FOX!' } }, 'append');
    expect(grown.toString('latin1')).toBe('GAPS\x02\x05fox\x15\x04owl\x13\x02\0\0\0OOFOX!');
  });

  test('a region without entries keeps its place', async () => {
    const pointed = recipeOf(`
match: { at: 0, bytes: NONE }
shapes:
  head: [{ field: magic, as: ascii(4), must: NONE }, { field: count, as: u8, is: count(entries) }, { field: at, as: u8, is: start(data) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at - start(data) }, { field: size, as: u8, is: entry.size }]
  tail: [{ field: mark, as: ascii(4), must: DONE }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 6, holds: 'row[head.count]' }
  - { region: data, at: head.at, holds: entries }
  - { region: tail, at: end - 4, holds: tail }
presents: archive
entries: { each: row in rows, path: row.name, at: start(data) + row.at, stored: row.size, size: row.size }
`);
    const empty = 'NONE\x00\x06DONE';
    expect((await edited(pointed, empty, {})).toString('latin1')).toBe(empty);
    const made = await edited(pointed, empty, { add: { fox: 'FFF' } });
    expect(made.toString('latin1')).toBe('NONE\x01\x0bfox\x00\x03FFFDONE');
    expect(await contentsOf(pointed, await edited(pointed, made, { remove: ['fox'] }))).toEqual({});
  });
});

test('an entry of no bytes does not take the one that begins where it lies out of the order of the rows', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: NONE }
shapes:
  head: [{ field: magic, as: ascii(4), must: NONE }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
  foot: [{ field: rows, as: u8, is: start(rows) }]
regions: [{ region: head, at: 0, holds: head }, { region: data, at: 8, holds: entries, order: rows }, { region: rows, at: foot.rows, holds: 'row[head.count]', sort: name }, { region: foot, at: end - 1, holds: foot }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);
  const file = 'NONE\x02\0\0\0FFFant\x08\0fox\x08\x03\x0b';
  const made = await edited(recipe, file, { add: { bee: 'BB' } }, 'afresh');
  expect(made.toString('latin1')).toBe('NONE\x03\0\0\0BBFFFant\x08\0bee\x08\x02fox\x0a\x03\x0d');
});
