/** Hash tables of slots, judged by the search that a game would make. */
import { hashOf } from '../../../src/core/codecs';
import { memoryScratch } from '../../../src/core/bytes';
import { compileRecipe, isProven, prove } from '../../../src/core/recipe';
import { contentsOf, edited, openFiles, recipeOf } from './edit-file';

const hash = (name: string) => Number(hashOf('fnv1a-32', Buffer.from(name)));
const stepOf = (value: number) => 1 + 2 * (value % 3);

const recipe = (more = '', rule = '') =>
  recipeOf(`
match: { at: 0, bytes: SLOT }
shapes:
  head: [{ field: magic, as: ascii(4), must: SLOT }, { field: slots, as: u16, is: count(table) }, { field: used, as: u16, is: count(entries) }]
  slot:
    - { field: hash, as: u32, is: fnv1a-32(entry.path) }
    - { field: name, as: ascii(8), is: entry.path }
    - { field: at, as: u32, is: entry.at }
    - { field: size, as: u32, is: entry.size }
regions:
  - { region: head, at: 0, holds: head }
  - { region: table, at: 8, holds: 'slot[head.slots]', slots: { by: hash, free: 'size == 0xFFFFFFFF'${rule} } }
  - { region: data, holds: entries }
presents: archive
entries: { each: slot in table, only: 'slot.size < 0xFFFFFFFE', path: slot.name, at: slot.at, stored: slot.size, size: slot.size${more} }
`);

const FREE = Buffer.concat([Buffer.alloc(16), Buffer.alloc(4, 0xff)]);
const DELETED = Buffer.concat([Buffer.alloc(16), Buffer.from([0xfe, 0xff, 0xff, 0xff])]);

/** A table that is filled in order, with searches of that step. */
function fileOf(
  contents: Record<string, string>,
  count: number,
  step: (hash: number) => number,
  gone: string[] = [],
): Buffer {
  const slots: (Buffer | undefined)[] = Array.from({ length: count }, () => undefined);
  const bodies: Buffer[] = [];
  let at = 8 + 20 * count;
  for (const name of [...gone, ...Object.keys(contents)]) {
    const body = Buffer.from(contents[name] ?? '');
    let slot = hash(name) % count;
    while (slots[slot] !== undefined) slot = (slot + step(hash(name))) % count;
    if (gone.includes(name)) {
      slots[slot] = DELETED;
      continue;
    }
    const row = Buffer.alloc(20);
    row.writeUInt32LE(hash(name), 0);
    row.write(name, 4);
    row.writeUInt32LE(at, 12);
    row.writeUInt32LE(body.length, 16);
    slots[slot] = row;
    bodies.push(body);
    at += body.length;
  }
  const head = Buffer.alloc(8);
  head.write('SLOT');
  head.writeUInt16LE(count, 4);
  head.writeUInt16LE(Object.keys(contents).length, 6);
  return Buffer.concat([head, ...slots.map((slot) => slot ?? FREE), ...bodies]);
}

/** Looks a name up as a game does. */
function find(file: Buffer, name: string, step: (hash: number) => number): string | undefined {
  const count = file.readUInt16LE(4);
  for (let i = 0, slot = hash(name) % count; i < count; i++, slot = (slot + step(hash(name))) % count) {
    const row = file.subarray(8 + 20 * slot, 28 + 20 * slot);
    if (row.readUInt32LE(16) === 0xffffffff) return undefined;
    if (row.readUInt32LE(16) === 0xfffffffe || row.readUInt32LE(0) !== hash(name)) continue;
    return file.toString('latin1', row.readUInt32LE(12), row.readUInt32LE(12) + row.readUInt32LE(16));
  }
  return undefined;
}

function strictly(file: Buffer, contents: Record<string, string>, step: (hash: number) => number): void {
  const count = file.readUInt16LE(4);
  let used = 0;
  for (let i = 0; i < count; i++) if (file.readUInt32LE(8 + 20 * i + 16) < 0xfffffffe) used++;
  expect([used, file.readUInt16LE(6)]).toEqual([Object.keys(contents).length, used]);
  for (const [name, text] of Object.entries(contents)) expect([name, find(file, name, step)]).toEqual([name, text]);
}

const NAMES = ['fox', 'owl', 'yak', 'hen', 'pug', 'emu', 'ant', 'bee', 'cat', 'dog', 'eel', 'gnu'];
const some = (names: readonly string[]) => Object.fromEntries(names.map((name, i) => [name, name.repeat(i + 1)]));

describe.each([
  ['linear', '', () => 1],
  [
    'in steps of its own, with marks for what was removed',
    ", deleted: 'size == 0xFFFFFFFE', step: '1 + 2 * (hash % 3)'",
    stepOf,
  ],
] as const)('a table searched %s', (_, rule, step) => {
  const text = recipe('', rule);
  const gone = rule === '' ? [] : ['rat', 'bat'];
  const before = some(NAMES.slice(0, 6));
  const file = fileOf(before, 16, step, gone);
  test('takes what is added, drops what is removed, and grows', async () => {
    expect(await contentsOf(text, file)).toEqual(before);
    for (const layout of ['keep', 'afresh'] as const) {
      const added = await edited(text, file, { add: { ant: 'A', bee: 'B' }, change: { owl: 'changed' } }, layout);
      strictly(added, { ...before, owl: 'changed', ant: 'A', bee: 'B' }, step);
      expect(added.readUInt16LE(4)).toBe(16);
      const removed = await edited(text, file, { remove: ['fox', 'yak'] }, layout);
      strictly(
        removed,
        {
          owl: before['owl']!,
          hen: before['hen']!,
          pug: before['pug']!,
          emu: before['emu']!,
        },
        step,
      );
      expect(find(removed, 'fox', step)).toBeUndefined();
      const all = Object.fromEntries(NAMES.slice(6).map((name) => [name, name]));
      const many = { ...all, jay: 'J', kit: 'K' };
      const grown = await edited(text, file, { add: many }, layout);
      strictly(grown, { ...before, ...many }, step);
      expect(grown.readUInt16LE(4)).toBe(32);
      expect(await contentsOf(text, grown)).toEqual({ ...before, ...many });
    }
  });
  test('proves whole', async () => {
    expect(isProven(await prove(await openFiles(text, file), { scratch: memoryScratch() }))).toBe(true);
  });
});

test('a row that no search finds is told', async () => {
  const file = fileOf(some(NAMES.slice(0, 6)), 16, () => 1);
  const wrong = Buffer.from(file);
  const rows = Array.from({ length: 16 }, (_, i) => file.subarray(8 + 20 * i, 28 + 20 * i));
  rows.unshift(rows.pop()!);
  Buffer.concat(rows).copy(wrong, 8);
  const { formulas } = await prove(await openFiles(recipe(), wrong), { scratch: memoryScratch() });
  expect(formulas.first).toMatchObject({ what: 'a row is not where a search for it leads', region: 'table' });
});

test('slots are for a list of rows', () => {
  expect(() => compileRecipe(recipe().replace("holds: 'slot[head.slots]'", 'length: 320, holds: bytes'))).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'recipe-invalid' }) }),
  );
});
