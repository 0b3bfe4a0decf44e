/** Sums over entries and stretches, with keys and seeds that the recipe, the file or the person has: judged by node:crypto. */
import { createHmac } from 'node:crypto';
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import { compileRecipe, isProven, openArchive, planNew, prove, volumeBytes } from '../../../src/core/recipe';
import { editArchive, recipeOf } from './edit-file';

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

/** Reads the file by hand. @returns the contents; what disagrees stands beside them */
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
