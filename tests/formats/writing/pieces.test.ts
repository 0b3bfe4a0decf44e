/** Entries in pieces: chains through an allocation table, lists of places and lengths, numbers into a table of blocks. */
import { crc32 } from 'node:zlib';
import { collect, memoryScratch } from '../../../src/core/bytes';
import { compileRecipe, prove, readEntry } from '../../../src/core/recipe';
import { contentsOf, edited, openFiles, recipeOf, isProvenWhole } from './edit-file';

describe('a chain through an allocation table', () => {
  const UNIT = 16;
  const recipe = recipeOf(`
match: { at: 0, bytes: FAT1 }
shapes:
  head:
    - { field: magic, as: ascii(4), must: FAT1 }
    - { field: units, as: u16, is: '(end - start(data)) / 16' }
    - { field: count, as: u16, is: count(entries) }
    - { field: fat, as: 'u16[units]', is: 'if(block-after(start(data) + index * 16) == nothing, 0, if(block-after(start(data) + index * 16) == start(data) + index * 16, 0xFFFF, (block-after(start(data) + index * 16) - start(data)) / 16 + 2))' }
    - { field: rows, as: 'row[count]' }
    - { field: pad, as: pad(16) }
  row:
    - { field: name, as: ascii(8), is: entry.path }
    - { field: first, as: u16, is: 'if(entry.size == 0, 0, (entry.at - start(data)) / 16 + 2)' }
    - { field: size, as: u16, is: entry.size }
regions:
  - { region: head, at: 0, holds: head }
  - { region: data, at: length(head), holds: entries, align: 16, tail: 16 }
presents: archive
entries:
  each: row in head.rows
  path: row.name
  at: 'if(row.first == 0, start(data), start(data) + (row.first - 2) * 16)'
  stored: row.size
  size: row.size
  blocks:
    size: 16
    stored: block.size
    first: row.first
    next: 'head.fat[block.number - 2]'
    at: 'start(data) + (block.number - 2) * 16'
`);
  /** Files whose units lie where `units` says; the others are free. */
  function fileOf(files: Record<string, { text: string; units: number[] }>, units: number): Buffer {
    const names = Object.keys(files);
    const start = Math.ceil((8 + 2 * units + 12 * names.length) / UNIT) * UNIT;
    const file = Buffer.alloc(start + units * UNIT);
    file.write('FAT1');
    file.writeUInt16LE(units, 4);
    file.writeUInt16LE(names.length, 6);
    for (const [i, name] of names.entries()) {
      const { text, units: own } = files[name]!;
      const row = 8 + 2 * units + 12 * i;
      file.write(name, row);
      file.writeUInt16LE(own.length === 0 ? 0 : own[0]! + 2, row + 8);
      file.writeUInt16LE(text.length, row + 10);
      for (const [k, unit] of own.entries()) {
        file.writeUInt16LE(own[k + 1] === undefined ? 0xffff : own[k + 1]! + 2, 8 + 2 * unit);
        file.write(text.slice(k * UNIT, (k + 1) * UNIT), start + unit * UNIT);
      }
    }
    return file;
  }
  /** Follows every chain as a game does; no unit may be in two of them. */
  function strictly(file: Buffer): Record<string, string> {
    const units = file.readUInt16LE(4);
    const count = file.readUInt16LE(6);
    const start = Math.ceil((8 + 2 * units + 12 * count) / UNIT) * UNIT;
    expect(file.length).toBe(start + units * UNIT);
    const used = new Set<number>();
    const found: Record<string, string> = {};
    for (let i = 0; i < count; i++) {
      const row = 8 + 2 * units + 12 * i;
      const size = file.readUInt16LE(row + 10);
      let text = '';
      let next = file.readUInt16LE(row + 8);
      for (let left = size; left > 0; left -= UNIT) {
        const unit = next - 2;
        expect(unit >= 0 && unit < units && !used.has(unit)).toBe(true);
        used.add(unit);
        text += file.toString('latin1', start + unit * UNIT, start + unit * UNIT + Math.min(UNIT, left));
        next = file.readUInt16LE(8 + 2 * unit);
      }
      expect(next).toBe(size === 0 ? 0 : 0xffff);
      found[file.toString('latin1', row, row + 8).replace(/\0+$/u, '')] = text;
    }
    for (let unit = 0; unit < units; unit++) if (!used.has(unit)) expect(file.readUInt16LE(8 + 2 * unit)).toBe(0);
    return found;
  }
  const fox = 'abcdefghijklmnopqrstuvwxyz0123456789ABCDE';
  const file = fileOf(
    {
      fox: { text: fox, units: [5, 1, 3] },
      owl: { text: 'O'.repeat(20), units: [0, 4] },
      none: { text: '', units: [] },
    },
    7,
  );
  test('is followed when read', async () => {
    expect(strictly(file)).toEqual({ fox, owl: 'O'.repeat(20), none: '' });
    expect(await contentsOf(recipe, file)).toEqual({ fox, owl: 'O'.repeat(20), none: '' });
  });
  test('is made anew when anything changes', async () => {
    const longer = 'x'.repeat(100);
    const made = await edited(
      recipe,
      file,
      { change: { owl: longer, none: 'now' }, add: { yak: 'y'.repeat(33) } },
      'afresh',
    );
    expect(strictly(made)).toEqual({ fox, owl: longer, none: 'now', yak: 'y'.repeat(33) });
    expect(await contentsOf(recipe, made)).toEqual({ fox, owl: longer, none: 'now', yak: 'y'.repeat(33) });
    const less = await edited(recipe, file, { change: { owl: '' }, remove: ['none'] }, 'afresh');
    expect(strictly(less)).toEqual({ fox, owl: '' });
    expect(await edited(recipe, file, {}, 'afresh')).toEqual(file);
  });
  test('proves whole, and a table that disagrees is told', async () => {
    expect(await isProvenWhole(recipe, file)).toBe(true);
    const wrong = Buffer.from(file);
    wrong.writeUInt16LE(9, 8 + 2 * 6);
    const { formulas } = await prove(await openFiles(recipe, wrong), { scratch: memoryScratch() });
    expect(formulas.first).toMatchObject({ field: expect.stringContaining('fat') });
  });
  test('that leads out of the file costs one entry', async () => {
    const wrong = Buffer.from(file);
    wrong.writeUInt16LE(0x7000, 8 + 2 * 5);
    const archive = await openFiles(recipe, wrong);
    expect(archive.complaints).toContainEqual(
      expect.objectContaining({ entry: 'fox', what: 'an index is past the end of its list' }),
    );
    expect(Buffer.from(await collect(readEntry(archive, 1))).toString()).toBe('O'.repeat(20));
    await expect(collect(readEntry(archive, 0))).rejects.toMatchObject({ fault: { entry: 'fox' } });
    const { bytes } = await prove(archive, { scratch: memoryScratch() });
    expect(bytes.explained).toBeLessThan(bytes.total);
  });
  test('is laid out in no other way', () => {
    expect(() => compileRecipe(recipe.replace('presents', 'layouts: [keep]\npresents'))).toThrow();
  });
});

describe.each([
  [
    'lists in the row',
    `
  row:
    - { field: name, as: ascii(8), is: entry.path }
    - { field: size, as: u32, is: entry.size }
    - { field: pieces, as: u16, is: entry.block-count }
    - { field: places, as: 'u32[pieces]', is: block.place }
    - { field: lengths, as: 'u32[pieces]', is: block.size }
`,
  ],
  [
    'a list of shapes in the row',
    `
  row:
    - { field: name, as: ascii(8), is: entry.path }
    - { field: size, as: u32, is: entry.size }
    - { field: pieces, as: u16, is: count(list) }
    - { field: list, as: 'piece[pieces]' }
  piece: [{ field: place, as: u32, is: block.place }, { field: length, as: u32, is: block.size }]
`,
  ],
] as const)('places and lengths in %s', (_, row) => {
  const isList = row.includes('piece[pieces]');
  const place = isList ? (i: string) => `row.list[${i}].place` : (i: string) => `row.places[${i}]`;
  const length = isList ? 'row.list[block.index].length' : 'row.lengths[block.index]';
  const recipe = recipeOf(`
match: { at: 0, bytes: EXTS }
shapes:
  head: [{ field: magic, as: ascii(4), must: EXTS }, { field: count, as: u32, is: count(entries) }, { field: rows, as: 'row[count]' }]
${row}
regions:
  - { region: head, at: 0, holds: head }
  - { region: data, holds: entries }
presents: archive
entries:
  each: row in head.rows
  path: row.name
  at: 'if(row.pieces == 0, 0, ${place('0')})'
  stored: row.size
  size: row.size
  blocks: { count: row.pieces, size: '${length}', stored: block.size, at: '${place('block.index')}' }
`);
  function fileOf(files: Record<string, string[]>, order: [string, number][]): Buffer {
    const names = Object.keys(files);
    let at = 8 + names.reduce((sum, name) => sum + 14 + 8 * files[name]!.length, 0);
    const places = new Map<string, number>();
    const body: Buffer[] = [];
    for (const [name, piece] of order) {
      places.set(`${name}:${piece}`, at);
      body.push(Buffer.from(files[name]![piece]!));
      at += files[name]![piece]!.length;
    }
    const rows = names.map((name) => {
      const pieces = files[name]!;
      const bytes = Buffer.alloc(14 + 8 * pieces.length);
      bytes.write(name);
      bytes.writeUInt32LE(pieces.join('').length, 8);
      bytes.writeUInt16LE(pieces.length, 12);
      for (const [i, piece] of pieces.entries()) {
        bytes.writeUInt32LE(places.get(`${name}:${i}`)!, 14 + (isList ? 8 : 4) * i);
        bytes.writeUInt32LE(piece.length, isList ? 18 + 8 * i : 14 + 4 * pieces.length + 4 * i);
      }
      return bytes;
    });
    const head = Buffer.from('EXTS\0\0\0\0');
    head.writeUInt32LE(names.length, 4);
    return Buffer.concat([head, ...rows, ...body]);
  }
  /** Reads it by its rows; every byte behind them belongs to one piece. */
  function strictly(bytes: Buffer): Record<string, string> {
    const found: Record<string, string> = {};
    let at = 8;
    let total = 0;
    for (let i = bytes.readUInt32LE(4); i > 0; i--) {
      const name = bytes.toString('latin1', at, at + 8).replace(/\0+$/u, '');
      const pieces = bytes.readUInt16LE(at + 12);
      found[name] = '';
      for (let k = 0; k < pieces; k++) {
        const start = bytes.readUInt32LE(at + 14 + (isList ? 8 : 4) * k);
        const size = bytes.readUInt32LE(at + (isList ? 18 + 8 * k : 14 + 4 * pieces + 4 * k));
        found[name] += bytes.toString('latin1', start, start + size);
        total += size;
      }
      expect(found[name]).toHaveLength(bytes.readUInt32LE(at + 8));
      at += 14 + 8 * pieces;
    }
    expect(bytes.length).toBe(at + total);
    return found;
  }
  const file = fileOf({ fox: ['abc', 'defghij', 'k'], owl: ['OO'], none: [] }, [
    ['fox', 1],
    ['owl', 0],
    ['fox', 0],
    ['fox', 2],
  ]);
  test('are put together, and written in one piece', async () => {
    expect(await contentsOf(recipe, file)).toEqual({ fox: 'abcdefghijk', owl: 'OO', none: '' });
    const made = await edited(
      recipe,
      file,
      { change: { none: 'now' }, add: { yak: 'NEW' }, remove: ['owl'] },
      'afresh',
    );
    expect(await contentsOf(recipe, made)).toEqual({ fox: 'abcdefghijk', none: 'now', yak: 'NEW' });
    expect(strictly(made)).toEqual({ fox: 'abcdefghijk', none: 'now', yak: 'NEW' });
  });
  test('prove whole', async () => expect(await isProvenWhole(recipe, file)).toBe(true));
});

test('numbers into a table of blocks', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: TABL }
shapes:
  head:
    - { field: magic, as: ascii(4), must: TABL }
    - { field: count, as: u16, is: count(entries) }
    - { field: blocks, as: u16, is: count(blocks) }
    - { field: rows, as: 'row[count]' }
    - { field: table, as: 'part[blocks]' }
  row: [{ field: name, as: ascii(8), is: entry.path }, { field: size, as: u32, is: entry.size }, { field: first, as: u32, is: entry.first-block }]
  part: [{ field: at, as: u32, is: block.place }, { field: stored, as: u32, is: block.stored }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: data, holds: entries, align: 4 }
presents: archive
entries:
  each: row in head.rows
  path: row.name
  at: 'if(row.size == 0, 0, head.table[row.first].at)'
  stored: 'if(row.size == 0, 0, sum(head.table, 0) + row.size)'
  size: row.size
  blocks: { each: part in head.table, first: row.first, size: 8, stored: part.stored, at: part.at }
`);
  const parts = ['fedcba98', 'OOO', 'abcdefgh', 'xyz'];
  const owners: [number, number][] = [
    [2, 0],
    [0, 1],
    [3, 2],
    [1, 3],
  ];
  const at = owners.map(() => 0);
  let place = 8 + 3 * 16 + 4 * 8;
  for (const [i, part] of parts.entries()) {
    at[i] = place;
    place += part.length;
  }
  const head = Buffer.from('TABL\x03\0\x04\0', 'latin1');
  const row = (name: string, size: number, first: number) => {
    const bytes = Buffer.alloc(16);
    bytes.write(name);
    bytes.writeUInt32LE(size, 8);
    bytes.writeUInt32LE(first, 12);
    return bytes;
  };
  const table = [2, 0, 3, 1].map((part) => {
    const bytes = Buffer.alloc(8);
    bytes.writeUInt32LE(at[part]!);
    bytes.writeUInt32LE(parts[part]!.length, 4);
    return bytes;
  });
  const file = Buffer.concat([
    head,
    row('fox', 19, 0),
    row('none', 0, 3),
    row('owl', 3, 3),
    ...table,
    ...parts.map((part) => Buffer.from(part)),
  ]);
  expect(await contentsOf(recipe, file)).toEqual({ fox: 'abcdefghfedcba98xyz', none: '', owl: 'OOO' });
  const made = await edited(recipe, file, { change: { owl: 'o'.repeat(17) }, add: { yak: 'NEW' } }, 'afresh');
  expect(await contentsOf(recipe, made)).toEqual({
    fox: 'abcdefghfedcba98xyz',
    none: '',
    owl: 'o'.repeat(17),
    yak: 'NEW',
  });
  expect(await isProvenWhole(recipe, file)).toBe(true);
});

describe('blocks that several entries share, by numbers into their table', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SHRB }
shapes:
  head:
    - { field: magic, as: ascii(4), must: SHRB }
    - { field: count, as: u16, is: count(entries) }
    - { field: blocks, as: u16, is: count(blocks) }
    - { field: rows, as: 'row[count]' }
    - { field: table, as: 'part[blocks]' }
  row:
    - { field: name, as: ascii(8), is: entry.path }
    - { field: size, as: u32, is: entry.size }
    - { field: pieces, as: u8, is: entry.block-count }
    - { field: numbers, as: 'u16[pieces]', is: block.number }
  part:
    - { field: at, as: u32, is: block.place }
    - { field: stored, as: u32, is: block.stored }
    - { field: uses, as: u16, is: block.uses }
    - { field: crc, as: u32, is: 'crc32(span(at, at + stored))' }
regions:
  - { region: head, at: 0, holds: head }
  - { region: data, at: length(head), holds: entries }
presents: archive
entries:
  each: row in head.rows
  path: row.name
  at: 'if(row.size == 0, start(data), head.table[row.numbers[0]].at)'
  stored: row.size
  size: row.size
  blocks: { each: part in head.table, number: 'row.numbers[block.index]', size: 8, stored: part.stored, at: part.at }
`);
  const parts = ['abcdefgh', 'OOO', 'ABCDEFGH', 'xyz'];
  function fileOf(files: Record<string, number[]>): Buffer {
    const names = Object.keys(files);
    const rows = names.map((name) => {
      const numbers = files[name]!;
      const row = Buffer.alloc(13 + 2 * numbers.length);
      row.write(name);
      row.writeUInt32LE(numbers.map((number) => parts[number]!).join('').length, 8);
      row[12] = numbers.length;
      for (const [i, number] of numbers.entries()) row.writeUInt16LE(number, 13 + 2 * i);
      return row;
    });
    let at = 8 + rows.reduce((sum, row) => sum + row.length, 0) + 14 * parts.length;
    const table = parts.map((part, number) => {
      const row = Buffer.alloc(14);
      row.writeUInt32LE(at, 0);
      row.writeUInt32LE(part.length, 4);
      row.writeUInt16LE(
        Object.values(files)
          .flat()
          .filter((one) => one === number).length,
        8,
      );
      row.writeUInt32LE(crc32(Buffer.from(part)), 10);
      at += part.length;
      return row;
    });
    const head = Buffer.from('SHRB\0\0\0\0');
    head.writeUInt16LE(names.length, 4);
    head.writeUInt16LE(parts.length, 6);
    return Buffer.concat([head, ...rows, ...table, ...parts.map((part) => Buffer.from(part))]);
  }
  /** Reads it as a game does, counting every use of a block and checking its bytes. */
  function strictly(file: Buffer): Record<string, string> {
    const found: Record<string, string> = {};
    const lists: [string, number, number[]][] = [];
    let at = 8;
    for (let i = file.readUInt16LE(4); i > 0; i--) {
      const numbers = Array.from({ length: file[at + 12]! }, (_, k) => file.readUInt16LE(at + 13 + 2 * k));
      lists.push([file.toString('latin1', at, at + 8).replace(/\0+$/u, ''), file.readUInt32LE(at + 8), numbers]);
      at += 13 + 2 * numbers.length;
    }
    const blocks = Array.from({ length: file.readUInt16LE(6) }, (_, k) => at + 14 * k);
    const uses = lists.flatMap(([, , numbers]) => numbers);
    let total = at + 14 * blocks.length;
    const texts = blocks.map((row, number) => {
      const start = file.readUInt32LE(row);
      const bytes = file.subarray(start, start + file.readUInt32LE(row + 4));
      expect(file.readUInt16LE(row + 8)).toBe(uses.filter((one) => one === number).length);
      expect(file.readUInt32LE(row + 10)).toBe(crc32(bytes));
      total += bytes.length;
      return bytes.toString('latin1');
    });
    expect(total).toBe(file.length);
    for (const [name, size, numbers] of lists) {
      found[name] = numbers.map((number) => texts[number]!).join('');
      expect(found[name]).toHaveLength(size);
    }
    return found;
  }
  const file = fileOf({ fox: [2, 0, 1], owl: [0, 0, 3], none: [], yak: [2, 0, 1] });
  const before = { fox: 'ABCDEFGHabcdefghOOO', owl: 'abcdefghabcdefghxyz', none: '', yak: 'ABCDEFGHabcdefghOOO' };

  test('are read, and the file that is copied is proven', async () => {
    expect(strictly(file)).toEqual(before);
    expect(await contentsOf(recipe, file)).toEqual(before);
    expect(await edited(recipe, file, {}, 'afresh')).toEqual(file);
    expect(await isProvenWhole(recipe, file)).toBe(true);
  });
  test('are counted again in what is written', async () => {
    const longer = 'abcdefgh'.repeat(3);
    const made = await edited(
      recipe,
      file,
      { change: { owl: longer }, add: { new: 'NEW' }, remove: ['fox'] },
      'afresh',
    );
    const after = { owl: longer, none: '', yak: before.yak, new: 'NEW' };
    expect(strictly(made)).toEqual(after);
    expect(await contentsOf(recipe, made)).toEqual(after);
  });
  test('that lead out of the table cost one entry, and a wrong count is told', async () => {
    const wrong = Buffer.from(file);
    wrong.writeUInt16LE(9, 8 + 13);
    const archive = await openFiles(recipe, wrong);
    expect(archive.complaints[0]).toMatchObject({ offset: 8, what: 'an index is past the end of its list' });
    expect(Buffer.from(await collect(readEntry(archive, 1))).toString()).toBe(before.owl);
    const count = Buffer.from(file);
    count.writeUInt16LE(7, file.indexOf(Buffer.from('abcdefgh')) - 14 * 4 + 8);
    const { formulas } = await prove(await openFiles(recipe, count), { scratch: memoryScratch() });
    expect(formulas.first).toMatchObject({ field: 'part[0].uses', expected: '4 = block.uses', found: '7' });
  });
});
