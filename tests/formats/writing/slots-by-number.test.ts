/** A hashed table whose slots name rows of another table by number, judged by a reader that searches as a game does. */
import { crc32 } from 'node:zlib';
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import {
  compileRecipe,
  isProven,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
} from '../../../src/core/recipe';
import { readingFaults } from '../../../src/core/recipe/proof/reading-checks';

const FREE = 0xffffffff;
const recipe = `recipe: slots-by-number
title: Slots by number
revision: 1
numbers: little
match: { at: 0, bytes: HASH }
shapes:
  head:
    - { field: magic, as: ascii(4), must: HASH }
    - { field: slots, as: u16, is: count(table) }
    - { field: files, as: u16, is: count(rows) }
  slot:
    - { field: hash, as: u32, is: entry.hash, new: 0 }
    - { field: file, as: u32, is: entry.index, new: 0xFFFFFFFF }
  row: [{ field: at, as: u32, is: entry.at }, { field: size, as: u32, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: table, at: 8, holds: 'slot[head.slots]', slots: { by: hash, free: file == 0xFFFFFFFF, deleted: file == 0xFFFFFFFE } }
  - { region: rows, at: 8 + length(table), holds: 'row[head.files]' }
  - { region: data, holds: entries }
presents: archive
entries:
  each: row in rows
  beside: [slot in table by slot.file]
  hash: slot.hash
  hashing: crc32(lower(entry.path))
  at: row.at
  stored: row.size
  size: row.size
`;

const hashOf = (name: string) => crc32(Buffer.from(name.toLowerCase()));

function fileOf(files: Readonly<Record<string, string>>, slots: number): Buffer {
  const names = Object.keys(files);
  const table = Array.from({ length: slots }, () => [0, FREE] as [number, number]);
  for (const [number, name] of names.entries()) {
    let slot = hashOf(name) % slots;
    while (table[slot]![1] !== FREE) slot = (slot + 1) % slots;
    table[slot] = [hashOf(name), number];
  }
  let at = 8 + 8 * slots + 8 * names.length;
  const numbers = [...table.flat()];
  for (const name of names) {
    numbers.push(at, files[name]!.length);
    at += files[name]!.length;
  }
  const head = Buffer.from('HASH\0\0\0\0');
  head.writeUInt16LE(slots, 4);
  head.writeUInt16LE(names.length, 6);
  const body = Buffer.alloc(4 * numbers.length);
  for (const [i, number] of numbers.entries()) body.writeUInt32LE(number, 4 * i);
  return Buffer.concat([head, body, Buffer.from(Object.values(files).join(''))]);
}

/** Searches for each name as a game does. Every used slot and every row must belong to one of them. */
function strictly(file: Buffer, names: readonly string[]): Record<string, string> {
  const slots = file.readUInt16LE(4);
  const files = file.readUInt16LE(6);
  const found: Record<string, string> = {};
  const taken = new Set<number>();
  for (const name of names) {
    const hash = hashOf(name);
    for (let probe = 0; probe < slots; probe++) {
      const slot = 8 + 8 * ((hash + probe) % slots);
      const number = file.readUInt32LE(slot + 4);
      if (number === FREE) break;
      if (number === 0xfffffffe || file.readUInt32LE(slot) !== hash) continue;
      expect(number).toBeLessThan(files);
      taken.add(number);
      const row = 8 + 8 * slots + 8 * number;
      const at = file.readUInt32LE(row);
      found[name] = file.toString('latin1', at, at + file.readUInt32LE(row + 4));
      break;
    }
  }
  const used = Array.from({ length: slots }, (_, i) => file.readUInt32LE(12 + 8 * i)).filter((one) => one < 0xfffffffe);
  expect(used.sort((a, b) => a - b)).toEqual([...taken].sort((a, b) => a - b));
  expect(taken.size).toBe(files);
  return found;
}

const before = { fox: 'FF', owl: 'OOO', yak: '', 'a/deer': 'DEER' };
const names = [...Object.keys(before), 'new', 'hare', 'b/ibex', 'c/lynx', 'mole', 'newt'];
const open = (file: Buffer) => openArchive(compileRecipe(recipe), [bufferSource(file, 'sample.bin')], { names });

async function contents(file: Buffer): Promise<Record<string, string>> {
  const archive = await open(file);
  const all: Record<string, string> = {};
  for (let i = 0; i < archive.entries.count; i++)
    all[archive.entries.path(i)] = Buffer.from(await collect(readEntry(archive, i))).toString();
  return all;
}

async function edited(
  file: Buffer,
  {
    change = {},
    add = {},
    remove = [],
  }: { change?: Record<string, string>; add?: Record<string, string>; remove?: string[] },
): Promise<Buffer> {
  const archive = await open(file);
  const indexOf = (path: string) =>
    Array.from({ length: archive.entries.count }, (_, i) => archive.entries.path(i)).indexOf(path);
  const plan = await planRebuild(
    archive,
    {
      replace: new Map(Object.entries(change).map(([path, text]) => [indexOf(path), bufferSource(Buffer.from(text))])),
      add: Object.entries(add).map(([path, text]) => ({ path, bytes: bufferSource(Buffer.from(text)) })),
      remove: new Set(remove.map(indexOf)),
    },
    { layout: 'keep', scratch: memoryScratch() },
  );
  return Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
}

const file = fileOf(before, 8);

test('is read by what the slots say of the rows', async () => {
  expect(strictly(file, names)).toEqual(before);
  expect(await contents(file)).toEqual(before);
});

test('a changed entry leaves every slot where it is', async () => {
  const made = await edited(file, { change: { owl: 'x'.repeat(40), yak: 'Y' } });
  expect(strictly(made, names)).toEqual({ ...before, owl: 'x'.repeat(40), yak: 'Y' });
  expect(made.subarray(8, 8 + 64)).toEqual(file.subarray(8, 8 + 64));
});

test('added entries get slots where a search finds them, and the table grows', async () => {
  const one = await edited(file, { add: { new: 'NEW' } });
  expect(strictly(one, names)).toEqual({ ...before, new: 'NEW' });
  const add = Object.fromEntries(['hare', 'b/ibex', 'c/lynx', 'mole', 'newt'].map((name) => [name, name]));
  const many = await edited(file, { add });
  expect(many.readUInt16LE(4)).toBe(16);
  expect(strictly(many, names)).toEqual({ ...before, ...add });
  expect(await contents(many)).toEqual({ ...before, ...add });
});

test('a removed entry takes its slot along, and the numbers of the others follow', async () => {
  const made = await edited(file, { remove: ['fox'], add: { new: 'NEW' } });
  const { fox, ...rest } = before;
  expect(fox).toBe('FF');
  expect(strictly(made, names)).toEqual({ ...rest, new: 'NEW' });
});

test('it is proven whole', async () => {
  const proof = await prove(await open(file), { scratch: memoryScratch() });
  expect(Object.values(proof).map(({ first }) => first)).toEqual([
    undefined,
    undefined,
    undefined,
    undefined,
    undefined,
  ]);
  expect(isProven(proof)).toBe(true);
});

test('a row that no slot names costs that entry, and a slot that names no row is reported', async () => {
  const wrong = Buffer.from(file);
  const slot = Array.from({ length: 8 }, (_, i) => 12 + 8 * i).find((at) => file.readUInt32LE(at) === 1)!;
  wrong.writeUInt32LE(77, slot);
  const archive = await open(wrong);
  expect(archive.complaints).toContainEqual(expect.objectContaining({ what: 'no row of slot belongs to this entry' }));
  expect(Buffer.from(await collect(readEntry(archive, 0))).toString()).toBe('FF');
  const { formulas } = await prove(archive, { scratch: memoryScratch() });
  expect(formulas.agree).toBeLessThan(formulas.total);
  expect(readingFaults(archive)).toContainEqual(
    expect.objectContaining({
      what: expect.stringContaining('a row belongs to no entry'),
      found: '77',
      offset: slot - 4,
    }),
  );
  await expect(collect(readEntry(archive, 1))).rejects.toMatchObject({ fault: { code: 'must-differs' } });
});
