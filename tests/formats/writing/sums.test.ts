/** Sums over entries and stretches, with keys and seeds that the recipe, the file or the person has: judged by node:crypto. */
import { createDecipheriv, createHmac } from 'node:crypto';
import { crc32, inflateSync } from 'node:zlib';
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import { compileRecipe, isProven, openArchive, planNew, prove, volumeBytes } from '../../../src/core/recipe';
import { editArchive, openFiles, recipeOf } from './edit-file';

const KEY = Buffer.from('a key of the game');

const recipe = recipeOf(`
match: { at: 0, bytes: SUMS }
needs: { content: text }
hashes:
  fold:
    takes: [seed]
    hash: |
      (bytes, { seed }) => bytes.reduce((sum, byte) => (Math.imul(sum, 31) + byte) >>> 0, seed)
shapes:
  head:
    - { field: magic, as: ascii(4), must: SUMS }
    - { field: seed, as: u32, new: 7 }
    - { field: count, as: u8, is: count(entries) }
    - { field: sum, as: u16, is: 'crc(plain(rows), width: 16, polynomial: 0x1021, start: 0xFFFF)' }
  row:
    - { field: name, as: text(u8, ascii), is: entry.path }
    - { field: mac, as: bytes(32), is: 'hmac-sha256(entry.data, key: content)' }
    - { field: fold, as: u32, is: 'fold(entry.packed, seed: head.seed)' }
    - { field: id, as: u32, is: 'murmur3(entry.path, seed: head.seed)' }
    - { field: size, as: u16, is: entry.size }
    - { field: at, as: u16, is: entry.at }
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: length(head), holds: 'row[head.count]' }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size }
`);

/** CRC-16/IBM-3740, bit by bit. */
function crc16(bytes: Uint8Array): number {
  let crc = 0xffff;
  for (const byte of bytes)
    for (let bit = 7; bit >= 0; bit--) crc = ((crc << 1) ^ (((crc >> 15) ^ (byte >> bit)) & 1 ? 0x1021 : 0)) & 0xffff;
  return crc;
}
const fold = (bytes: Uint8Array, seed: number) => bytes.reduce((sum, byte) => (Math.imul(sum, 31) + byte) >>> 0, seed);

/** Reads the file by hand. @returns the contents; what disagrees is next to them */
function strictly(file: Buffer): Record<string, string> {
  const seed = file.readUInt32LE(4);
  const found: Record<string, string> = {};
  let at = 11;
  for (let i = 0; i < file[8]!; i++) {
    const length = file[at]!;
    const name = file.toString('latin1', at + 1, at + 1 + length);
    at += 1 + length;
    const [mac, sum] = [file.subarray(at, at + 32), file.readUInt32LE(at + 32)];
    const [size, start] = [file.readUInt16LE(at + 40), file.readUInt16LE(at + 42)];
    at += 44;
    const bytes = file.subarray(start, start + size);
    expect(createHmac('sha256', KEY).update(bytes).digest()).toEqual(mac);
    expect(fold(bytes, seed)).toBe(sum);
    found[name] = bytes.toString('latin1');
  }
  expect(crc16(file.subarray(11, at))).toBe(file.readUInt16LE(9));
  return found;
}

async function fileOf(contents: Record<string, string>): Promise<Buffer> {
  const names = Object.keys(contents);
  const plan = await planNew(
    compileRecipe(recipe),
    names.map((path) => ({ path, bytes: bufferSource(Buffer.from(contents[path]!)) })),
    { scratch: memoryScratch(), keys: new Map([['content', KEY]]) },
  );
  return Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
}

const open = async (file: Uint8Array, key = KEY) =>
  openArchive(compileRecipe(recipe), [bufferSource(file, 'sample.bin')], { keys: new Map([['content', key]]) });

test('are written for new files, changed and added entries, and hold in a reader of its own', async () => {
  const file = await fileOf({ fox: 'FFFF', owl: 'OO' });
  expect(strictly(file)).toEqual({ fox: 'FFFF', owl: 'OO' });
  const archive = await open(file);
  expect(archive.complaints).toEqual([]);
  const made = (await editArchive(archive, { change: { fox: 'changed' }, add: { yak: 'new' } }))['sample.bin']!;
  expect(strictly(made)).toEqual({ fox: 'changed', owl: 'OO', yak: 'new' });
  expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
});

test('that disagree are told by the proof', async () => {
  const file = await fileOf({ fox: 'FFFF', owl: 'OO' });
  const { formulas } = await prove(await open(file, Buffer.from('another key')), { scratch: memoryScratch() });
  expect(formulas.first).toMatchObject({ field: 'row[0].mac' });
});

test('a hash without a parameter it needs, or with one it has not, does not compile', async () => {
  for (const wrong of ['hmac-sha256(entry.data)', 'crc32(entry.data, seed: 5)', 'fold(entry.data)'])
    expect(() => compileRecipe(recipe.replace('hmac-sha256(entry.data, key: content)', wrong))).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ code: 'recipe-invalid', line: expect.any(Number) }) }),
    );
});

describe('a sum over what is between two steps', () => {
  const between = (through: string) =>
    recipeOf(`
match: { at: 0, bytes: BETW }
shapes:
  head: [{ field: magic, as: ascii(4), must: BETW }, { field: count, as: u8, is: count(entries) }]
  row:
    - { field: name, as: ascii(3), is: entry.path }
    - { field: sum, as: u32, is: 'crc32(behind(entry, 1))' }
    - { field: at, as: u16, is: entry.at }
    - { field: stored, as: u16, is: entry.stored }
    - { field: size, as: u16, is: entry.size }
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 5, holds: 'row[head.count]' }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.stored, size: row.size, through: [${through}] }
`);
  /** Reads it by hand: the sum is over the packed bytes once they are unlocked. */
  const strictly = (file: Buffer, unlock: (bytes: Buffer, at: number) => Buffer) => {
    const found: Record<string, string> = {};
    for (let i = 0; i < file[4]!; i++) {
      const row = file.subarray(5 + 13 * i, 18 + 13 * i);
      const at = row.readUInt16LE(7);
      const packed = unlock(file.subarray(at, at + row.readUInt16LE(9)), at);
      expect(crc32(packed) >>> 0).toBe(row.readUInt32LE(3));
      found[row.toString('latin1', 0, 3)] = inflateSync(packed).toString();
    }
    return found;
  };
  test.each([
    [
      'a fixed key',
      '"xor(key: hex(\'5A A5 0F\'))", zlib',
      (bytes: Buffer) => bytes.map((byte, i) => byte ^ [0x5a, 0xa5, 0x0f][i % 3]!),
    ],
    [
      'a key that follows the place',
      '"counter-xor(start: entry.at, step: 1)", zlib',
      (bytes: Buffer, at: number) => bytes.map((byte, i) => byte ^ ((at + i) & 0xff)),
    ],
  ] as const)('under %s is right for what is changed, added and moved', async (_, through, turn) => {
    const unlock = (bytes: Buffer, at: number) => Buffer.from(turn(bytes, at));
    const text = between(through.replaceAll("'", '\\"'));
    const add = { fox: 'FF', owl: 'O'.repeat(50), yak: 'YY' };
    const plan = await planNew(
      compileRecipe(text),
      Object.entries(add).map(([path, body]) => ({ path, bytes: bufferSource(Buffer.from(body)) })),
      { scratch: memoryScratch() },
    );
    const file = Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
    expect(strictly(file, unlock)).toEqual(add);
    const archive = await openFiles(text, file);
    const made = (await editArchive(archive, { change: { fox: 'F'.repeat(300) }, add: { emu: 'E' } }))['sample.bin']!;
    expect(strictly(made, unlock)).toEqual({ ...add, fox: 'F'.repeat(300), emu: 'E' });
    expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
    const wrong = Buffer.from(file);
    wrong[8]! ^= 1;
    const { formulas } = await prove(await openFiles(text, wrong), { scratch: memoryScratch() });
    expect(formulas.first).toMatchObject({ field: 'row[0].sum' });
  });
});

test('the packed length before padding, and the cipher over it', async () => {
  const text = recipeOf(`
match: { at: 0, bytes: PADS }
shapes:
  head: [{ field: magic, as: ascii(4), must: PADS }, { field: count, as: u8, is: count(entries) }]
  row:
    - { field: name, as: ascii(3), is: entry.path }
    - { field: packed, as: u16, is: 'byte-count(behind(entry, 2))' }
    - { field: at, as: u16, is: entry.at }
    - { field: size, as: u16, is: entry.size }
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 5, holds: 'row[head.count]' }
  - { region: data, holds: entries }
presents: archive
entries:
  each: row in rows
  path: row.name
  at: row.at
  stored: align(row.packed, 16)
  size: row.size
  through: ['aes-128-ecb(key: hex("000102030405060708090A0B0C0D0E0F"))', 'zero-pad(step: 16, size: row.packed)', zlib]
`);
  const key = Buffer.from('000102030405060708090a0b0c0d0e0f', 'hex');
  const strictly = (file: Buffer) => {
    const found: Record<string, string> = {};
    let end = 5 + 9 * file[4]!;
    for (let i = 0; i < file[4]!; i++) {
      const row = file.subarray(5 + 9 * i, 14 + 9 * i);
      const packed = row.readUInt16LE(3);
      const at = row.readUInt16LE(5);
      const machine = createDecipheriv('aes-128-ecb', key, null).setAutoPadding(false);
      const plain = machine.update(file.subarray(at, at + Math.ceil(packed / 16) * 16));
      expect(plain.subarray(packed).every((byte) => byte === 0)).toBe(true);
      const whole = inflateSync(plain.subarray(0, packed));
      expect(whole.length).toBe(row.readUInt16LE(7));
      found[row.toString('latin1', 0, 3)] = whole.toString();
      end = Math.max(end, at + Math.ceil(packed / 16) * 16);
    }
    expect(file.length).toBe(end);
    return found;
  };
  const add = { fox: 'FF', owl: 'O'.repeat(500), yak: 'a lantern by the rope' };
  const plan = await planNew(
    compileRecipe(text),
    Object.entries(add).map(([path, body]) => ({ path, bytes: bufferSource(Buffer.from(body)) })),
    { scratch: memoryScratch() },
  );
  const file = Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
  expect(strictly(file)).toEqual(add);
  const archive = await openFiles(text, file);
  const made = (await editArchive(archive, { change: { fox: 'a much longer text than it was' }, add: { emu: 'E' } }))[
    'sample.bin'
  ]!;
  expect(strictly(made)).toEqual({ ...add, fox: 'a much longer text than it was', emu: 'E' });
  expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
});

describe('the bytes of all entries in another volume', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: VOLS }
volumes: { main: "{stem}.idx", near: "{stem}.dat" }
shapes:
  head: [{ field: magic, as: ascii(4), must: VOLS }, { field: count, as: u8, is: count(entries) }, { field: sum, as: u32, is: crc32(stored(data)) }]
  top: [{ field: magic, as: ascii(4), must: DATV }]
  row: [{ field: name, as: ascii(1), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 9, holds: 'row[head.count]' }
  - { region: top, volume: near, at: 0, holds: top }
  - { region: data, volume: near, at: 4, length: end - 4, holds: entries, align: 8 }
presents: archive
entries: { each: row in rows, path: row.name, volume: near, at: row.at, stored: row.size, size: row.size }
`);
  const files = (near: string, rows: string) => {
    const sum = Buffer.alloc(4);
    sum.writeUInt32LE(crc32(Buffer.from(near.slice(4), 'latin1')));
    const index = Buffer.concat([Buffer.from(`VOLS${String.fromCharCode(rows.length / 3)}`), sum, Buffer.from(rows)]);
    return { 'sample.idx': index, 'sample.dat': Buffer.from(near, 'latin1') };
  };
  const sample = files('DATV\0\0\0\0FFF\0\0\0\0\0OO', 'a\x08\x03b\x10\x02');

  test.each(['keep', 'append', 'afresh'] as const)('are summed up with the gaps between them (%s)', async (layout) => {
    const archive = await openFiles(recipe, sample);
    expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
    const made = await editArchive(archive, { change: { a: 'GGGGGGGGG' }, remove: ['b'] }, layout);
    const [index, near] = [made['sample.idx']!, made['sample.dat']!];
    expect(index.readUInt32LE(5)).toBe(crc32(near.subarray(4)));
  });
  test('are those of the patch in a patch', async () => {
    const marks = recipe
      .replace('is: entry.size }]', "is: 'if(entry.deleted, 255, entry.size)' }]")
      .replaceAll(/(stored|size): row.size/gu, "$1: 'if(row.size == 255, 0, row.size)'")
      .replace('volume: near, at: row.at', 'volume: near, at: row.at, deleted: row.size == 255');
    const made = await editArchive(await openFiles(marks, sample), { change: { a: 'G' } }, 'patch');
    expect(made['sample.idx']!.readUInt32LE(5)).toBe(crc32(made['sample.dat']!.subarray(4)));
  });
});
