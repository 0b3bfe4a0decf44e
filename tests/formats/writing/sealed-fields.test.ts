/** Fields behind steps of their own, judged by readers that undo them by hand. */
import { deflateSync, inflateSync } from 'node:zlib';
import { memoryScratch } from '../../../src/core/bytes';
import { compileRecipe, isProven, prove } from '../../../src/core/recipe';
import { contentsOf, edited, openFiles, recipeOf, refused } from './edit-file';

const xored = (text: string, by: number) =>
  [...text].map((char) => String.fromCharCode(char.charCodeAt(0) ^ by)).join('');

describe('names under a scramble that starts from the row before it', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SEAL }
shapes:
  head: [{ field: magic, as: ascii(4), must: SEAL }, { field: key, as: u8 }, { field: count, as: u8, is: count(entries) }]
  row:
    - { field: salt, as: u8, new: 42 }
    - { field: length, as: u8, is: length(name) }
    - { field: name, as: 'text(rest, utf-8)', size: length, through: ['counter-xor(start: salt ^ head.key, step: 0)'], is: entry.path }
    - { field: size, as: u16, is: entry.size, through: [invert] }
    - { field: body, as: data(size) }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 6, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: row.name }
`);
  const row = (salt: number, name: string, body: string) =>
    String.fromCharCode(salt, name.length) +
    xored(name, salt ^ 5) +
    xored(`${String.fromCharCode(body.length)}\0`, 0xff) +
    body;
  const file = `SEAL\x05\x02${row(1, 'fox', 'FF')}${row(9, 'a/owl', 'O')}`;

  test('are read, written and proven', async () => {
    expect(await contentsOf(recipe, file)).toEqual({ fox: 'FF', 'a/owl': 'O' });
    const made = await edited(recipe, file, { add: { 'a/new one': 'NEW' }, change: { fox: '' }, remove: ['a/owl'] });
    expect(made.toString('latin1')).toBe(`SEAL\x05\x02${row(1, 'fox', '')}${row(42, 'a/new one', 'NEW')}`);
    expect(isProven(await prove(await openFiles(recipe, file), { scratch: memoryScratch() }))).toBe(true);
  });
  test('stand alone where the size of a field is not said', () => {
    expect(() => compileRecipe(recipe.replace(' size: length,', ''))).toThrow(
      expect.objectContaining({
        fault: expect.objectContaining({ code: 'recipe-invalid', expected: 'size: FORMULA beside through' }),
      }),
    );
  });
});

describe('a locked table in front of the blocks of an entry', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: WRAP }
shapes:
  head: [{ field: magic, as: ascii(4), must: WRAP }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u16, is: entry.at }, { field: size, as: u16, is: entry.size }]
  wrap:
    - { field: sizes, as: 'u16[ceil(row.size, 8)]', is: block.stored, size: ceil(row.size, 8) * 2, through: ['xor(hex("5A A5 0F"))'] }
    - { field: body, as: data(rest) }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries:
  each: row in rows
  path: row.name
  at: row.at
  size: row.size
  wrap: wrap
  blocks: { size: 8, stored: 'own.sizes[block.index]', through: [rle-pairs] }
`);
  const pairs = (text: string) =>
    [...text.matchAll(/(.)\1*/g)].map(([run]) => String.fromCharCode(run.length) + run[0]).join('');
  const KEY = [0x5a, 0xa5, 0x0f];
  const wrapped = (text: string) => {
    const blocks = (text.match(/.{1,8}/g) ?? []).map(pairs);
    const table = blocks.map((block) => String.fromCharCode(block.length, 0)).join('');
    return (
      [...table].map((char, i) => String.fromCharCode(char.charCodeAt(0) ^ KEY[i % 3]!)).join('') + blocks.join('')
    );
  };
  const fileOf = (entries: Record<string, string>) => {
    const names = Object.keys(entries);
    let at = 5 + 7 * names.length;
    const rows = names.map((name) => {
      const text = `${name}${String.fromCharCode(at, 0, entries[name]!.length, 0)}`;
      at += wrapped(entries[name]!).length;
      return text;
    });
    return `WRAP${String.fromCharCode(names.length)}${rows.join('')}${names.map((name) => wrapped(entries[name]!)).join('')}`;
  };
  const before = { fox: 'FFFFFFFFFFFF', owl: 'OOPP' };
  test('is read, and written for what is changed and added', async () => {
    const file = fileOf(before);
    expect(await contentsOf(recipe, file)).toEqual(before);
    const made = await edited(
      recipe,
      file,
      { change: { owl: 'abcdefghijklmnopqrstuvw' }, add: { yak: 'YYYY' } },
      'afresh',
    );
    expect(made.toString('latin1')).toBe(fileOf({ fox: before.fox, owl: 'abcdefghijklmnopqrstuvw', yak: 'YYYY' }));
    expect(isProven(await prove(await openFiles(recipe, file), { scratch: memoryScratch() }))).toBe(true);
  });
});

test('rows of bits across bytes', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: BITS }
shapes:
  head: [{ field: magic, as: ascii(4), must: BITS }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: id, as: u8, is: number(entry.name) }, { field: size, as: u16, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 5, length: 'ceil(head.count * 14, 8)', plain: head.count * 3, through: ['unpack-bits(hex("05 09"), bits: high)'], holds: 'row[head.count]' }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in rows, path: 'decimal(row.id, 1)', at: 'if(entry.index == 0, start(rows) + length(rows), previous.end)', stored: row.size, size: row.size }
`);
  const fileOf = (sizes: readonly [number, string][]) => {
    const bits = sizes
      .map(([id, text]) => id.toString(2).padStart(5, '0') + text.length.toString(2).padStart(9, '0'))
      .join('');
    const bytes = (bits.match(/.{1,8}/g) ?? []).map((eight) => parseInt(eight.padEnd(8, '0'), 2));
    return `BITS${String.fromCharCode(sizes.length, ...bytes)}${sizes.map(([, text]) => text).join('')}`;
  };
  const file = fileOf([
    [3, 'FF'],
    [17, 'OOO'],
  ]);
  expect(await contentsOf(recipe, file)).toEqual({ 3: 'FF', 17: 'OOO' });
  const made = await edited(recipe, file, { add: { 30: 'N'.repeat(300) } });
  expect(made.toString('latin1')).toBe(
    fileOf([
      [3, 'FF'],
      [17, 'OOO'],
      [30, 'N'.repeat(300)],
    ]),
  );
  expect(await refused(recipe, file, { add: { 32: 'x' } })).toMatchObject({ what: 'a number does not fit its bits' });
  expect(isProven(await prove(await openFiles(recipe, file), { scratch: memoryScratch() }))).toBe(true);
});

describe('fields that another packer compressed', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: PACK }
shapes:
  head: [{ field: magic, as: ascii(4), must: PACK }, { field: count, as: u8, is: count(entries) }]
  row:
    - { field: packed, as: u8, is: length(names) }
    - { field: names, as: 'text(rest, utf-8)', size: packed, through: [zlib], is: entry.path }
    - { field: size, as: u8, is: entry.size }
    - { field: body, as: data(size) }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: row.names }
`);
  /** Stored without compression, which nobody here would do. */
  const row = (name: string, body: string) => {
    const packed = deflateSync(name, { level: 0 });
    return Buffer.concat([Buffer.of(packed.length), packed, Buffer.of(body.length), Buffer.from(body)]);
  };
  const name = 'a/name/that/repeats/repeats/repeats';
  const rows = [row(name, 'FF'), row('owl', 'O')];
  const file = Buffer.concat([Buffer.from('PACK\x02', 'latin1'), ...rows]).toString('latin1');

  test('keep the bytes they have when others change', async () => {
    expect(await contentsOf(recipe, file)).toEqual({ [name]: 'FF', owl: 'O' });
    const made = await edited(recipe, file, { change: { owl: 'OOO' }, add: { yak: 'Y' } });
    expect(made.subarray(5, 5 + rows[0]!.length)).toEqual(rows[0]);
    expect(made.subarray(5 + rows[0]!.length).indexOf(row('owl', 'OOO'))).toBe(0);
    const added = made.subarray(5 + rows[0]!.length + row('owl', 'OOO').length);
    expect(inflateSync(added.subarray(1, 1 + added[0]!)).toString()).toBe('yak');
  });
  test('are proven', async () => {
    const proof = await prove(await openFiles(recipe, file), { scratch: memoryScratch() });
    expect(proof).toMatchObject({ identical: { same: true } });
    expect(isProven(proof)).toBe(true);
  });
});
