/** Formulas over all entries, over the items of a list, and over whole volumes: right when read, and right after edits. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import { memoryScratch } from '../../src/core/bytes';
import { compileRecipe, isProven, prove } from '../../src/core/recipe';
import { contentsOf, editArchive, edited, openFiles, recipeOf } from './writing/edit-file';

test('how many, how much, the least and the greatest over entries and over rows', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: MANY }
shapes:
  head:
    - { field: magic, as: ascii(4), must: MANY }
    - { field: count, as: u8, is: count(entries) }
    - { field: filled, as: u8, is: 'count(entries, entry.size > 0)' }
    - { field: total, as: u16, is: 'sum(entries, entry.size)' }
    - { field: most, as: u8, is: 'greatest(rows, item.size)' }
    - { field: first, as: u8, is: 'least(entries, entry.at)' }
    - { field: loud, as: u8, is: 'count(rows, item.kind == 2)' }
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }, { field: kind, as: u8, new: 2 }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 11, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);
  const file = 'MANY\x03\x02\x05\0\x03\x1d\x01fox\x1d\x03\x01owl\x20\0\x02hen\x20\x02\x01FFFHH';
  expect(isProven(await prove(await openFiles(recipe, file), { scratch: memoryScratch() }))).toBe(true);
  const made = await edited(recipe, file, { change: { fox: 'FFFFFF' }, add: { yak: 'Y' }, remove: ['owl'] });
  // Two filled ones and a third; 6, 2 and 1 bytes; the greatest 6; one of the kind 2.
  expect([...made.subarray(4, 11)]).toEqual([3, 3, 9, 0, 6, 29, 1]);
  expect(await contentsOf(recipe, made)).toEqual({ fox: 'FFFFFF', hen: 'HH', yak: 'Y' });
});

test('the length and the hash of another volume', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: VOLS }
volumes: { main: '{stem}.bin', data: '{stem}.dat', more: { file: '{stem}.{n:00}', first: 1 } }
shapes:
  head:
    - { field: magic, as: ascii(4), must: VOLS }
    - { field: count, as: u8, is: count(entries) }
    - { field: size, as: u16, is: length(volume(data)) }
    - { field: sum, as: u32, is: crc32(volume(data)) }
    - { field: next, as: u16, is: 'length(volume(more, 1))' }
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
  top: [{ field: magic, as: ascii(2), must: MM }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 13, holds: 'row[head.count]' }, { region: top, volume: more, at: 0, holds: top }, { region: data, volume: data, holds: entries }]
presents: archive
entries: { each: row in rows, volume: data, path: row.name, at: row.at, stored: row.size, size: row.size }
`);
  const main = (size: number, sum: number, rows: string) => {
    const head = Buffer.alloc(13);
    head.write('VOLS');
    head[4] = rows.length / 5;
    head.writeUInt16LE(size, 5);
    head.writeUInt32LE(sum, 7);
    head.writeUInt16LE(2, 11);
    return Buffer.concat([head, Buffer.from(rows, 'latin1')]);
  };
  const files = {
    'a.bin': main(5, crc32('FFFOO'), 'fox\0\x03owl\x03\x02'),
    'a.dat': Buffer.from('FFFOO'),
    'a.01': Buffer.from('MM'),
  };
  const archive = await openFiles(recipe, files);
  expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
  const made = await editArchive(archive, { change: { fox: 'FFFFFF' }, add: { yak: 'Y' } });
  const data = made['a.dat']!;
  expect(made['a.bin']!.subarray(5, 11).toString('hex')).toBe(
    main(data.length, crc32(data), '').subarray(5, 11).toString('hex'),
  );
  expect(await contentsOf(recipe, made)).toEqual({ fox: 'FFFFFF', owl: 'OO', yak: 'Y' });
});

test.each([
  ['volume(nobody)', 'there is no volume nobody'],
  ['length(volume(main, 3))', 'main is one volume'],
  ['sum(entries)', 'sum takes two values'],
  ['sum(count, 1)', 'what is counted or summed up is entries or a list'],
  ['sum(entries, crc32(entry.data))', 'hashes over the bytes of all entries are not known here'],
])('%s is told: %s', (formula, what) => {
  const recipe = recipeOf(`
match: { at: 0, bytes: X }
shapes: { head: [{ field: count, as: u8 }, { field: one, as: u8, is: '${formula.startsWith('volume') ? `length(${formula})` : formula}' }], row: [{ field: body, as: data(1) }] }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 2, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: decimal(entry.index) }
`);
  expect(() => compileRecipe(recipe)).toThrow(what);
});

test.each(readdirSync(join(__dirname, 'outside')))('the recipe of a format from outside compiles: %s', (file) => {
  const text = readFileSync(join(__dirname, 'outside', file), 'utf8');
  expect(() => compileRecipe(text)).not.toThrow();
});
