/** What cannot be written is refused, with the entry or field and the place, before anything is written. */
import { hashOf } from '../../../src/core/codecs';
import { bufferSource, memoryScratch } from '../../../src/core/bytes';
import { sayFault } from '../../../src/core/faults';
import { compileRecipe, isProven, openArchive, prove } from '../../../src/core/recipe';
import { contentsOf, edited, editArchive, openFiles, recipeOf, refused } from './edit-file';

test('a place that a pointer in sectors cannot say is refused, naming the entry and where the pointer is told', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SECT }
shapes:
  head: [{ field: magic, as: ascii(4), must: SECT }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: at, as: u8, is: entry.at / 8 }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: decimal(entry.index), at: row.at * 8, stored: row.size, size: row.size }
`);
  const file = 'SECT\x02\x02\x03\x03\x02\0\0\0\0\0\0\0FFF\0\0\0\0\0OO';
  const fault = await refused(recipe, file, { change: { 0: 'FFFFFFFFFFF' } });
  expect(fault).toMatchObject({ code: 'check-failed', entry: '1', field: 'row.at * 8', line: 12 });
  const aligned = recipe.replace('holds: entries', 'holds: entries, align: 8');
  const made = await edited(aligned, file, { change: { 0: 'FFFFFFFFFFF' } });
  expect(await contentsOf(aligned, made)).toEqual({ 0: 'FFFFFFFFFFF', 1: 'OO' });
});

describe('what is gone', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: GONE }
shapes:
  head: [{ field: magic, as: ascii(4), must: GONE }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, is: 'if(entry.deleted, 255, entry.size)' }, { field: body, as: data(if(size == 255, 0, size)) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: row.name, data: row.body, deleted: row.size == 255 }
`);
  const file = 'GONE\x02fox\x03FFFowl\x02OO';

  test('is marked in a patch', async () => {
    expect((await edited(recipe, file, { remove: ['fox'] }, 'patch')).toString('latin1')).toBe('GONE\x01fox\xff');
  });
  test('is marked for an entry of another archive', async () => {
    expect((await edited(recipe, file, { mark: ['hen'] })).toString('latin1')).toBe(
      'GONE\x03fox\x03FFFowl\x02OOhen\xff',
    );
  });
  test('is refused where nothing can say it', async () => {
    const without = recipe.replace(', deleted: row.size == 255', '');
    expect(await refused(without, file, { remove: ['fox'] }, 'patch')).toMatchObject({
      code: 'layout-impossible',
      entry: 'fox',
    });
  });
  test('is refused where the row could say it and no formula does', async () => {
    const mute = recipe.replace("'if(entry.deleted, 255, entry.size)'", 'entry.size');
    expect(await refused(mute, file, { remove: ['fox'] }, 'patch')).toMatchObject({
      code: 'check-failed',
      entry: 'fox',
      what: 'an entry would not be marked as deleted',
    });
  });
});

test('a checksum of what changes that has no formula is refused', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SUMD }
volumes: { main: "{stem}.bin", data: "{stem}.dat" }
shapes:
  head: [{ field: magic, as: ascii(4), must: SUMD }, { field: count, as: u8, is: count(entries) }, { field: sum, as: u32 }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 9, holds: 'row[head.count]' }, { region: data, volume: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, volume: data, at: row.at, stored: row.size, size: row.size }
`);
  // The CRC-32 of “FFF” is 0x2AA6C7D1 by zlib.
  const main = Buffer.from('SUMD\x01\0\0\0\0fox\0\x03', 'latin1');
  const { crc32 } = await import('@node-rs/crc32');
  main.writeUInt32LE(crc32(Buffer.from('FFF')), 5);
  const archive = await openFiles(recipe, { 'sample.bin': main, 'sample.dat': Buffer.from('FFF') });
  await expect(editArchive(archive, { change: { fox: 'F' } })).rejects.toMatchObject({
    fault: { code: 'layout-impossible', field: 'sum', offset: 5 },
  });
  expect(Object.keys(await editArchive(archive, { change: { fox: 'FFF' } }))).toEqual(['sample.bin', 'sample.dat']);
});

test('a checksum is refused whatever another recipe asked of the same open file before', async () => {
  const recipe = (sum: string) =>
    compileRecipe(
      recipeOf(`
match: { at: 0, bytes: SUMD }
volumes: { main: "{stem}.bin", data: "{stem}.dat" }
shapes:
  head: [{ field: magic, as: ascii(4), must: SUMD }, { field: count, as: u8, is: count(entries) }, ${sum}]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 21, holds: 'row[head.count]' }, { region: data, volume: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, volume: data, at: row.at, stored: row.size, size: row.size }
`),
    );
  // The MD5 of “FFF” by openssl.
  const md5 = Buffer.from('2804890a4b43e24d922447ddaaad3b2a', 'hex');
  const main = Buffer.concat([Buffer.from('SUMD\x01', 'latin1'), md5, Buffer.from('fox\0\x03', 'latin1')]);
  const files = [bufferSource(main, 'sample.bin'), bufferSource(Buffer.from('FFF'), 'sample.dat')];
  const asNumber = recipe('{ field: first, as: u32 }, { field: rest, as: bytes(12) }');
  const asSum = recipe('{ field: sum, as: bytes(16) }');
  await editArchive(await openArchive(asNumber, files), { change: { fox: 'F' } });
  await expect(editArchive(await openArchive(asSum, files), { change: { fox: 'F' } })).rejects.toMatchObject({
    fault: { code: 'layout-impossible', field: 'sum', offset: 5 },
  });
});

test('the size of each volume is its own', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: VOLS }
volumes: { main: "{stem}.bin", data: "{stem}.dat" }
shapes:
  head: [{ field: magic, as: ascii(4), must: VOLS }, { field: size, as: u16, is: end }, { field: count, as: u8, is: count(entries) }]
  top: [{ field: size, as: u16, is: end }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: top, volume: data, at: 0, holds: top }
  - { region: rows, at: 7, holds: 'row[head.count]' }
  - { region: head, at: 0, holds: head }
  - { region: data, volume: data, at: 2, holds: entries }
presents: archive
entries: { each: row in rows, path: row.name, volume: data, at: row.at, stored: row.size, size: row.size }
`);
  const files = {
    'sample.bin': Buffer.from('VOLS\x0c\0\x01fox\x02\x03', 'latin1'),
    'sample.dat': Buffer.from('\x05\0FFF', 'latin1'),
  };
  const made = await editArchive(await openFiles(recipe, files), { change: { fox: 'FOX!' }, add: { hen: 'H' } });
  expect(made['sample.bin']!.toString('latin1')).toBe('VOLS\x11\0\x02fox\x02\x04hen\x06\x01');
  expect(made['sample.dat']!.toString('latin1')).toBe('\x07\0FOX!H');
});

test('fields that need each other are named, both with their lines', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: RING }
shapes:
  head:
    - { field: magic, as: ascii(4), must: RING }
    - { field: one, as: u8, is: two + 1 }
    - { field: two, as: u8, is: one - 1 }
    - { field: size, as: u8, is: entry.size }
    - { field: body, as: data(size) }
regions: [{ region: all, at: 0, holds: 'head[1]' }]
presents: archive
entries: { each: head in all, path: '"only"' }
`);
  const archive = await openArchive(compileRecipe(recipe), bufferSource(Buffer.from('RING\x05\x04\x01!')));
  const proof = await prove(archive, { scratch: memoryScratch() });
  expect(isProven(proof)).toBe(false);
  expect(sayFault(proof.changed.first!)).toContain('the formulas of one (line 10), two (line 11) need each other');
});

test('a volume that is missing and may be is no error of the proof', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: OPTN }
volumes: { main: "{stem}.bin", more: { file: "{stem}.more", optional: true } }
shapes:
  head: [{ field: magic, as: ascii(4), must: OPTN }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: far, as: u8, is: 'entry.volume-set == "more"' }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 5, holds: 'row[head.count]' }
  - { region: near, holds: entries }
  - { region: far, volume: more, holds: entries }
presents: archive
entries: { each: row in rows, path: row.name, volume: 'if(row.far == 1, more, main)', at: row.at, stored: row.size, size: row.size }
`);
  const archive = await openFiles(recipe, 'OPTN\x02fox\x00\x11\x03owl\x01\x00\x02FFF');
  expect(archive.complaints.map(({ code, entry }) => [code, entry])).toEqual([['volume-missing', 'owl']]);
  const proof = await prove(archive, { scratch: memoryScratch() });
  expect(isProven(proof)).toBe(false);
  expect(proof.identical.same).toBe(true);
  expect([proof.bytes.first, proof.changed.first].flatMap((one) => (one === undefined ? [] : [one.code]))).toEqual([
    'volume-missing',
  ]);
});

describe('a path that is taken', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: TAKE }
shapes:
  head: [{ field: magic, as: ascii(4), must: TAKE }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: row.name, data: row.body }
`);
  const file = 'TAKE\x02fox\x03FFFowl\x02OO';

  test('is not added again', async () => {
    expect(await refused(recipe, file, { add: { owl: 'new' } })).toMatchObject({
      code: 'conflict',
      entry: 'owl',
      hint: 'Replace the entry instead.',
    });
  });
  test('is free when its entry is removed in the same step', async () => {
    const made = await edited(recipe, file, { remove: ['owl'], add: { owl: 'new' } });
    expect(await contentsOf(recipe, made)).toEqual({ fox: 'FFF', owl: 'new' });
  });
});

describe('a damaged row', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: ROWS }
shapes:
  head: [{ field: magic, as: ascii(4), must: ROWS }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: unit, as: u8 }, { field: at, as: u8, is: entry.at / (8 / unit) }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries, align: 8 }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at * (8 / row.unit), stored: row.size, size: row.size }
`);
  const file = (unit: string) => `ROWS\x02fox\x01\x03\x03owl${unit}\x04\x02\0\0\0\0\0\0\0FFF\0\0\0\0\0OO`;

  test('costs its own entry only', async () => {
    expect(await contentsOf(recipe, file('\x01'))).toEqual({ fox: 'FFF', owl: 'OO' });
    const archive = await openFiles(recipe, file('\0'));
    expect(archive.entries.damaged).toBe(1);
    expect(archive.entries.damage(0)).toBeUndefined();
    expect(archive.complaints).toContainEqual(
      expect.objectContaining({ file: 'sample.bin', recipe: 'small', line: expect.any(Number), offset: 11 }),
    );
  });
  test('is not written around, and may be taken out', async () => {
    expect(await refused(recipe, file('\0'), { change: { fox: 'GG' } })).toMatchObject({ entry: 'owl', offset: 11 });
    const made = await edited(recipe, file('\0'), { remove: ['owl'] });
    expect(await contentsOf(recipe, made)).toEqual({ fox: 'FFF' });
  });
});

test('a row with a field that is not what it must be costs its own entry only', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: MUST }
shapes:
  head: [{ field: magic, as: ascii(4), must: MUST }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, must: 0..9, is: entry.size }, { field: at, as: u8, is: entry.at }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);
  const file = (size: string) => `MUST\x02fox\x03\x0fowl${size}\x12FFFOO`;
  const archive = await openFiles(recipe, file('\xff'));
  expect(archive.entries.damage(1)).toMatchObject({ code: 'must-differs', offset: 13, line: 9, found: '255' });
  const made = await edited(recipe, file('\xff'), { remove: ['owl'], change: { fox: 'GG' } });
  expect(await contentsOf(recipe, made)).toEqual({ fox: 'GG' });
  await expect(openFiles(recipe, 'MUST\x01fox\xff\x0aFFF')).rejects.toMatchObject({ fault: { code: 'must-differs' } });
});

test('a path that the game finds by the hash of another one', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: HASH }
shapes:
  head: [{ field: magic, as: ascii(4), must: HASH }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: hash, as: u32, is: entry.hash }, { field: at, as: u16, is: entry.at }, { field: size, as: u16, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, hash: row.hash, hashing: fnv1a-32(lower(entry.path)), at: row.at, stored: row.size, size: row.size }
`);
  const row = Buffer.alloc(8);
  row.writeUInt32LE(Number(hashOf('fnv1a-32', Buffer.from('fox'))));
  row.writeUInt16LE(13, 4);
  row.writeUInt16LE(2, 6);
  const file = Buffer.concat([Buffer.from('HASH\u0001'), row, Buffer.from('!!')]);
  expect(await refused(recipe, file, { add: { FOX: 'x' } })).toMatchObject({ code: 'conflict', entry: 'FOX' });
  expect(await refused(recipe, file, { add: { owl: 'x', OWL: 'y' } })).toMatchObject({
    code: 'conflict',
    entry: 'OWL',
  });
});

test('first values that need each other', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: LOOP }
shapes:
  head: [{ field: magic, as: ascii(4), must: LOOP }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, is: entry.size }, { field: first, as: u8, new: second + 1 }, { field: second, as: u8, new: first + 1 }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: 'if(entry.index == 0, start(data), previous.end)', stored: row.size, size: row.size }
`);
  const file = 'LOOP\x01fox\x03\x01\x01FFF';
  expect(await contentsOf(recipe, file)).toEqual({ fox: 'FFF' });
  expect(await refused(recipe, file, { add: { owl: 'OO' } })).toMatchObject({ code: 'recipe-circular', line: 9 });
  const apart = recipe.replace('new: first + 1', 'new: 4');
  const made = await edited(apart, file, { add: { owl: 'OO' } });
  expect(made.toString('latin1')).toBe('LOOP\x02fox\x03\x01\x01owl\x02\x05\x04FFFOO');
});

test('an emptied entry between marks lies behind the head of its patch, and not where it was', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: MARK }
shapes:
  head: [{ field: magic, as: ascii(4), must: MARK }, { field: count, as: u8, is: count(entries) }]
  row:
    - { field: name, as: ascii(1), is: entry.path }
    - { field: gone, as: u8, is: entry.deleted }
    - { field: at, as: u8, is: 'if(entry.deleted, 0, entry.at)' }
    - { field: size, as: u8, is: entry.size }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]', sort: name }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size, deleted: row.gone == 1 }
`);
  const file = 'MARK\x03a\0\x11\x01b\0\x12\x02c\0\x14\x01ABBC';
  const made = await edited(recipe, file, { change: { b: '' }, remove: ['a', 'c'] }, 'patch');
  expect(made.toString('latin1')).toBe('MARK\x03a\x01\0\0b\0\x11\0c\x01\0\0');
});
