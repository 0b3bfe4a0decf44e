/** Entries whose content follows from the others, and names that an archive lists itself. */
import { crc32 } from 'node:zlib';
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import { hashOf } from '../../../src/core/codecs';
import { sayFault } from '../../../src/core/faults';
import {
  compileRecipe,
  isProven,
  openArchive,
  planNew,
  planRebuild,
  prove,
  volumeBytes,
} from '../../../src/core/recipe';
import { contentsOf, edited, editArchive, openFiles, recipeOf, refused } from './edit-file';

const text = (entries: string) =>
  recipeOf(`
match: { at: 0, bytes: MADE }
shapes:
  head: [{ field: magic, as: ascii(4), must: MADE }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: 'text(u8, utf-8)', is: entry.path }, { field: size, as: u16, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }]
presents: archive
entries:
  each: row in rows
  path: row.name
${entries}`);

const fileOf = (contents: Record<string, string | Buffer>) =>
  Buffer.concat([
    Buffer.from(`MADE${String.fromCharCode(Object.keys(contents).length)}`, 'latin1'),
    ...Object.entries(contents).flatMap(([name, body]) => {
      const size = Buffer.alloc(2);
      size.writeUInt16LE(body.length);
      return [Buffer.from(String.fromCharCode(name.length) + name), size, Buffer.from(body)];
    }),
  ]);

const LIST = text(`  made:
    - { path: list.txt, each: 'entry.path + "\\n"', sort: entry.path }
    - { path: sums.bin, first: '"SUMS"', each: 'to-bytes(crc32(entry.data), 4, little) + to-bytes(entry.size, 2, big)' }
`);
/** Both tables as a program of the game would make them. */
function whole(contents: Record<string, string>): Record<string, string | Buffer> {
  const names = Object.keys(contents);
  const sums = names.map((name) => {
    const row = Buffer.alloc(6);
    row.writeUInt32LE(crc32(contents[name]!) >>> 0);
    row.writeUInt16BE(contents[name]!.length, 4);
    return row;
  });
  return {
    'list.txt': [...names]
      .sort()
      .map((name) => `${name}\n`)
      .join(''),
    ...contents,
    'sums.bin': Buffer.concat([Buffer.from('SUMS'), ...sums]),
  };
}

describe('a list of paths and a table of checksums', () => {
  const before = { owl: 'O', fox: 'FF' };
  const file = fileOf(whole(before));
  test('are written anew with every change', async () => {
    const made = await edited(LIST, file, { change: { owl: 'changed' }, add: { 'a/yak': 'NEW' }, remove: ['fox'] });
    const { 'sums.bin': sums, ...others } = whole({ owl: 'changed', 'a/yak': 'NEW' });
    const { 'list.txt': list, ...rest } = others;
    expect(made).toEqual(fileOf({ 'list.txt': list!, owl: rest['owl']!, 'sums.bin': sums!, 'a/yak': rest['a/yak']! }));
  });
  test('are proven, and told where they disagree', async () => {
    const proof = await prove(await openFiles(LIST, file), { scratch: memoryScratch() });
    expect(Object.values(proof).flatMap(({ first }) => (first === undefined ? [] : [sayFault(first)]))).toEqual([]);
    expect(isProven(proof)).toBe(true);
    const wrong = fileOf({ ...whole(before), 'list.txt': 'owl\nfox\n' });
    const told = await prove(await openFiles(LIST, wrong), { scratch: memoryScratch() });
    expect(told.formulas.first).toMatchObject({
      entry: 'list.txt',
      what: 'the content of an entry does not follow from the others',
    });
  });
  test('are kept where nothing changes, and other bytes for them are refused', async () => {
    expect(await edited(LIST, file, {})).toEqual(file);
    expect(await refused(LIST, file, { change: { 'list.txt': 'mine' } })).toMatchObject({
      code: 'conflict',
      entry: 'list.txt',
    });
    expect(await edited(LIST, file, { remove: ['list.txt'], change: { owl: 'P' } })).toEqual(
      fileOf({ owl: 'P', fox: 'FF', 'sums.bin': whole({ owl: 'P', fox: 'FF' })['sums.bin']! }),
    );
  });
  test('are made with a new file', async () => {
    const add = Object.entries(before).map(([path, body]) => ({ path, bytes: bufferSource(Buffer.from(body)) }));
    const plan = await planNew(compileRecipe(LIST), add, { scratch: memoryScratch() });
    const made = Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
    const { 'list.txt': list, 'sums.bin': sums } = whole(before);
    expect(await contentsOf(LIST, made)).toEqual({
      ...before,
      'list.txt': list,
      'sums.bin': (sums as Buffer).toString('latin1'),
    });
  });
  test('cannot follow from where things lie', () => {
    expect(() => compileRecipe(text("  made: [{ path: list.txt, each: 'decimal(entry.at, 1)' }]\n"))).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ code: 'recipe-invalid' }) }),
    );
  });
});

describe('names that the archive lists itself', () => {
  const recipe = text('')
    .replace("as: 'text(u8, utf-8)', is: entry.path", 'as: u32, is: entry.hash')
    .replace(
      '  path: row.name\n',
      `  hash: row.name
  hashing: fnv1a-32(entry.path)
  names: { in: (names) }
  made: [{ path: (names), each: 'entry.path + "\\r\\n"' }]
`,
    );
  const hashed = (contents: Record<string, string>) =>
    Buffer.concat([
      Buffer.from(`MADE${String.fromCharCode(Object.keys(contents).length)}`, 'latin1'),
      ...Object.entries(contents).map(([name, body]) => {
        const row = Buffer.alloc(6);
        row.writeUInt32LE(Number(hashOf('fnv1a-32', Buffer.from(name))));
        row.writeUInt16LE(body.length, 4);
        return Buffer.concat([row, Buffer.from(body)]);
      }),
    ]);
  const file = hashed({ fox: 'FF', '(names)': 'fox\r\na/owl\r\n', 'a/owl': 'O' });
  test('are known when it opens, and written anew', async () => {
    const archive = await openArchive(compileRecipe(recipe), bufferSource(file, 'sample.bin'));
    expect([0, 1, 2].map((entry) => archive.entries.path(entry))).toEqual(['fox', '(names)', 'a/owl']);
    const made = (await editArchive(archive, { add: { yak: 'NEW' }, remove: ['fox'] }))['sample.bin']!;
    expect(made).toEqual(hashed({ '(names)': 'a/owl\r\nyak\r\n', 'a/owl': 'O', yak: 'NEW' }));
    expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
  });
  test('cost nothing but themselves where they cannot be read', async () => {
    const archive = await openArchive(compileRecipe(recipe), bufferSource(hashed({ fox: 'FF' })));
    expect(archive.entries.path(0)).toMatch(/^nameless\//u);
    await expect(
      planRebuild(
        archive,
        { replace: new Map(), remove: new Set(), add: [{ path: 'new', bytes: bufferSource(Buffer.from('x')) }] },
        { scratch: memoryScratch() },
      ),
    ).resolves.toBeDefined();
  });
});
