/** Stored bytes survive, layer by layer. */
import { randomBytes } from 'node:crypto';
import * as zlib from 'node:zlib';
import { contentsOf, edited, recipeOf, refused } from './edit-file';

const noise = (length: number, seed: number) =>
  Uint8Array.from({ length }, (_, i) => ((i * 2654435761 + seed * 40503) >>> 13) & 255);

describe('a cipher that follows the offset, over a compression', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SEAL }
shapes:
  head: [{ field: magic, as: ascii(4), must: SEAL }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u32, is: entry.at }, { field: kept, as: u32, is: entry.stored }, { field: size, as: u32, is: entry.size }, { field: sum, as: u32, is: crc32(entry.packed) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.kept, size: row.size, through: ['xor(to-bytes(entry.at, 4, little))', zlib] }
`);
  const crc = (bytes: Uint8Array) => {
    let value = 0xffffffff;
    for (const byte of bytes) {
      value ^= byte;
      for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
    }
    return ~value >>> 0;
  };

  /** Packed by another level than ours, so that packing it again would give another length. */
  function fileOf(entries: Readonly<Record<string, Buffer>>): Buffer {
    const names = Object.keys(entries);
    const head = Buffer.from(`SEAL${String.fromCharCode(names.length)}`, 'latin1');
    let at = 5 + names.length * 19;
    const rows: Buffer[] = [];
    const data: Buffer[] = [];
    for (const name of names) {
      const packed = zlib.deflateSync(entries[name]!, { level: 1 });
      const key = Buffer.alloc(4);
      key.writeUInt32LE(at);
      const stored = Buffer.from(packed.map((byte, i) => byte ^ key[i % 4]!));
      const row = Buffer.alloc(19);
      row.write(name, 'latin1');
      for (const [i, value] of [at, stored.length, entries[name]!.length, crc(stored)].entries())
        row.writeUInt32LE(value, 3 + i * 4);
      rows.push(row);
      data.push(stored);
      at += stored.length;
    }
    return Buffer.concat([head, ...rows, ...data]);
  }
  const words = Buffer.from('cabins and cables, cables and cabins. '.repeat(80));
  const file = fileOf({ fox: words, owl: Buffer.concat([words, Buffer.from(noise(200, 3))]) });

  test('is done again for an untouched entry that moves, and the compression under it is not', async () => {
    const made = await edited(recipe, file, { add: { hen: 'HH' }, change: { fox: 'F' } });
    const found = await contentsOf(recipe, made);
    expect(found['owl']).toBe(Buffer.concat([words, Buffer.from(noise(200, 3))]).toString('latin1'));
    // The stored length is that of the other compressor.
    expect(made.readUInt32LE(5 + 19 + 7)).toBe(file.readUInt32LE(5 + 19 + 7));
  });
});

describe('entries in blocks', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: BLKS }
shapes:
  head: [{ field: magic, as: ascii(4), must: BLKS }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u32, is: entry.at }, { field: kept, as: u32, is: entry.stored }, { field: size, as: u32, is: entry.size }]
  around: [{ field: sizes, as: 'u16[ceil(row.size, 512)]', is: block.stored }, { field: body, as: data(rest) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries:
  each: row in rows
  path: row.name
  at: row.at
  stored: row.kept
  size: row.size
  wrap: around
  blocks: { size: 512, stored: 'own.sizes[block.index]', through: [{ when: block.stored != block.size, use: deflate }] }
`);
  const plain = Buffer.from(
    Array.from({ length: 2000 }, (_, i) => `${i * 7} `)
      .join('')
      .slice(0, 2000),
    'latin1',
  );
  const blocks = [0, 512, 1024, 1536].map((at) => zlib.deflateRawSync(plain.subarray(at, at + 512), { level: 1 }));
  const row = Buffer.alloc(15);
  row.write('fox', 'latin1');
  for (const [i, value] of [20, 8 + blocks.reduce((sum, one) => sum + one.length, 0), 2000].entries())
    row.writeUInt32LE(value, 3 + i * 4);
  const sizes = Buffer.alloc(8);
  for (const [i, block] of blocks.entries()) sizes.writeUInt16LE(block.length, i * 2);
  const file = Buffer.concat([Buffer.from('BLKS\x01', 'latin1'), row, sizes, ...blocks]);

  test('keep those of their blocks in which nothing changed', async () => {
    const changed = Buffer.from(plain);
    changed[600] = 0x21;
    const made = await edited(recipe, file, { change: { fox: changed } });
    expect(await contentsOf(recipe, made)).toEqual({ fox: changed.toString('latin1') });
    for (const kept of [0, 2, 3]) expect(made.includes(blocks[kept]!)).toBe(true);
    expect(made.includes(blocks[1]!)).toBe(false);
  });
  test('that are given their own bytes are no change at all', async () => {
    expect((await edited(recipe, file, { change: { fox: plain } })).equals(file)).toBe(true);
  });
});

test('an entry in a shape that tells its own place is written anew when it moves', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SELF }
shapes:
  head: [{ field: magic, as: ascii(4), must: SELF }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: kept, as: u8, is: entry.stored }, { field: size, as: u8, is: entry.size }]
  around: [{ field: here, as: u8, is: entry.at }, { field: number, as: u8, is: entry.index }, { field: body, as: data(row.size) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.kept, size: row.size, wrap: around }
`);
  const file = 'SELF\x02fox\x11\x05\x03owl\x16\x04\x02\x11\x00FFF\x16\x01OO';
  const made = await edited(recipe, file, { remove: ['fox'] });
  expect(made.toString('latin1')).toBe('SELF\x01owl\x0b\x04\x02\x0b\x00OO');
});

test('random keys of what is not touched stay', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: KEYS }
shapes:
  head: [{ field: magic, as: ascii(4), must: KEYS }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: key, as: bytes(4), new: random(4) }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: row.name, data: row.body, size: row.size, through: [xor(row.key)] }
`);
  const key = randomBytes(4);
  const file = Buffer.concat([
    Buffer.from('KEYS\x01fox', 'latin1'),
    key,
    Buffer.from([3]),
    Buffer.from('FFF').map((byte, i) => byte ^ key[i]!),
  ]);
  const made = await edited(recipe, file, { add: { hen: 'HH' } });
  expect(made.subarray(5, 16).equals(file.subarray(5))).toBe(true);
  expect(await contentsOf(recipe, made)).toEqual({ fox: 'FFF', hen: 'HH' });
});

test('blocks of a size that the file tells as none are refused, and packing ends', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: UNIT }
shapes:
  head: [{ field: magic, as: ascii(4), must: UNIT }, { field: count, as: u8, is: count(entries) }, { field: unit, as: u16 }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: kept, as: u8, is: entry.stored }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 7, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.kept, size: row.size, blocks: { size: head.unit, stored: row.kept, through: [deflate] } }
`);
  const file = 'UNIT\x01\0\0fox\x0d\0\0';
  expect(await refused(recipe, file, { change: { fox: 'FF' } })).toMatchObject({
    code: 'must-differs',
    what: 'blocks of no bytes',
  });
});

test('a checksum over the stored bytes follows an untouched entry that is locked anew for another place', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: SUMS }
shapes:
  head: [{ field: magic, as: ascii(4), must: SUMS }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }, { field: sum, as: u32, is: crc32(entry.packed) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size, through: ['lcg-xor(entry.at, multiply: 1664525, add: 1013904223, shift: 16)'] }
`);
  const locked = (bytes: Buffer, at: number) => {
    let state = at;
    return Buffer.from(
      bytes.map((byte) => byte ^ (((state = (Math.imul(state, 1664525) + 1013904223) >>> 0) >>> 16) & 255)),
    );
  };
  const [fox, owl] = [locked(Buffer.from('FFF'), 23), locked(Buffer.from('OO'), 26)];
  const row = (name: string, at: number, stored: Buffer) => {
    const bytes = Buffer.alloc(9);
    bytes.write(name);
    bytes.set([at, stored.length], 3);
    bytes.writeUInt32LE(zlib.crc32(stored), 5);
    return bytes;
  };
  const file = Buffer.concat([Buffer.from('SUMS\x02'), row('fox', 23, fox), row('owl', 26, owl), fox, owl]);
  const made = await edited(recipe, file, { change: { fox: 'FFFFFF' } });
  expect(made.subarray(14, 23)).toEqual(row('owl', 29, locked(Buffer.from('OO'), 29)));
  expect(await contentsOf(recipe, made)).toEqual({ fox: 'FFFFFF', owl: 'OO' });
});
