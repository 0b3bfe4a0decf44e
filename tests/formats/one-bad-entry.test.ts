/** What is wrong with one entry costs that entry: it is told with its place, and all others are read as ever. */
import { bufferSource, memoryScratch } from '../../src/core/bytes';
import {
  compileRecipe,
  isProven,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
} from '../../src/core/recipe';
import { recipeOf } from './writing/edit-file';

async function opened(recipe: string, files: Readonly<Record<string, string>>) {
  const sources = Object.entries(files).map(([name, text]) => bufferSource(Buffer.from(text, 'latin1'), name));
  return openArchive(compileRecipe(recipe), sources);
}

type Archive = Awaited<ReturnType<typeof opened>>;

/** What each entry holds, or the code of what is wrong with it. */
async function readable(archive: Archive): Promise<Record<string, string>> {
  const found: Record<string, string> = {};
  for (let i = 0; i < archive.entries.count; i++) {
    let text = '';
    try {
      for await (const chunk of readEntry(archive, i)) text += Buffer.from(chunk).toString('latin1');
    } catch (error) {
      text = `!${(error as { fault: { code: string } }).fault.code}`;
    }
    found[archive.entries.path(i)] = text;
  }
  return found;
}

describe('a field that lies elsewhere', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: AWAY }
shapes:
  head: [{ field: magic, as: ascii(4), must: AWAY }, { field: count, as: u8, is: count(entries) }, { field: rows, as: 'row[count]' }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: start(body) }, { field: body, as: body, at: at }]
  body: [{ field: mark, as: u8, must: 7 }, { field: size, as: u8, is: length(bytes) }, { field: bytes, as: data(size) }]
regions: [{ region: all, at: 0, holds: head }]
presents: archive
entries: { each: row in all.rows, path: row.name, data: row.body.bytes }
`);
  const file = (at: string, mark = '\x07', size = '\x02') =>
    `AWAY\x03fox\x11ewe${at}owl\x16\x07\x03FFF${mark}${size}OO`;

  test.each([
    ['out of the file', file('\xf0'), 'outside-file'],
    ['where something else is', file('\x12'), 'must-differs'],
  ])('leads %s', async (_, text, code) => {
    const archive = await opened(recipe, { 'sample.bin': text });
    expect(await readable(archive)).toEqual({ fox: 'FFF', ewe: `!${code}`, owl: 'OO' });
    expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(false);
  });

  test.each(['keep', 'append', 'afresh'] as const)(
    'is not written around, also without a change (%s)',
    async (layout) => {
      const archive = await opened(recipe, { 'sample.bin': file('\xf0') });
      const planned = (remove: readonly number[]) =>
        planRebuild(
          archive,
          { replace: new Map(), add: [], remove: new Set(remove) },
          { layout, scratch: memoryScratch() },
        );
      await expect(planned([])).rejects.toMatchObject({ fault: { code: 'outside-file', entry: 'ewe' } });
      const { volumes } = await planned([1]);
      const again = await openArchive(
        archive.recipe,
        await memoryScratch().keep(volumeBytes(volumes[0]!), 'sample.bin'),
      );
      expect(await readable(again)).toEqual({ fox: 'FFF', owl: 'OO' });
    },
  );

  test('is longer than what is left', async () => {
    const archive = await opened(recipe, { 'sample.bin': file('\x11', '\x07', '\xff') });
    expect(await readable(archive)).toEqual({ fox: 'FFF', ewe: 'FFF', owl: '!cut-short' });
  });
});

test('entries that begin where the one before ends are found behind one that is damaged', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: NEXT }
shapes:
  head: [{ field: magic, as: ascii(4), must: NEXT }, { field: count, as: u8, is: count(entries) }, { field: rows, as: 'row[count]' }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: kind, as: u8, must: 1 }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: data, holds: entries }]
presents: archive
entries: { each: row in head.rows, path: row.name, at: 'if(entry.index == 0, start(data), previous.end)', stored: row.size, size: row.size }
`);
  const archive = await opened(recipe, { 'sample.bin': 'NEXT\x03fox\x01\x03ewe\x09\x04owl\x01\x02FFFEEEEOO' });
  expect(await readable(archive)).toEqual({ fox: 'FFF', ewe: '!must-differs', owl: 'OO' });
});

describe('a volume that is not there', () => {
  const recipe = (rows: string) =>
    recipeOf(`
match: { at: 0, bytes: VOLS }
volumes: { main: "{stem}.bin", far: "{stem}.far" }
shapes:
  head: [{ field: magic, as: ascii(4), must: VOLS }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: far, as: u8, is: 'entry.volume-set == "far"' }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, ${rows}, holds: 'row[head.count]' }
  - { region: near, holds: entries }
  - { region: away, volume: far, holds: entries }
presents: archive
entries: { each: row in rows, path: row.name, volume: 'if(row.far == 1, far, main)', at: row.at, stored: row.size, size: row.size }
`);
  const main = { 'sample.bin': 'VOLS\x02fox\x00\x11\x03owl\x01\x00\x02FFF' };

  test('costs the entries whose bytes are in it', async () => {
    const archive = await opened(recipe('at: 5'), main);
    expect(await readable(archive)).toEqual({ fox: 'FFF', owl: '!volume-missing' });
    expect(archive.complaints[0]).toMatchObject({ code: 'volume-missing', expected: 'sample.far' });
    const proof = await prove(archive, { scratch: memoryScratch() });
    expect(isProven(proof)).toBe(false);
    expect(proof.identical.first).toMatchObject({ code: 'volume-missing' });
  });

  test('keeps anything from being written', async () => {
    const archive = await opened(recipe('at: 5'), main);
    const replace = new Map([[0, bufferSource(Buffer.from('new'), 'new')]]);
    const edits = { replace, add: [], remove: new Set<number>() };
    await expect(planRebuild(archive, edits, { scratch: memoryScratch() })).rejects.toMatchObject({
      fault: { code: 'volume-missing', expected: 'sample.far' },
    });
  });

  test('is needed when the rows are in it', async () => {
    await expect(opened(recipe('volume: far, at: 0'), main)).rejects.toMatchObject({
      fault: { code: 'volume-missing', file: 'sample.bin', expected: 'sample.far' },
    });
  });
});

describe('a row that runs over the end of its list', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: RUNS }
shapes:
  group: [{ field: name, as: ascii(1), is: folder.name }, { field: size, as: u8, is: length(rows) }, { field: rows, as: 'row[in size]' }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: size, as: u8, is: length(body) }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: ascii(4) }, { region: all, at: 4, holds: 'group[to end]' }]
presents: archive
entries: { each: row in all, path: row.name, data: row.body, folders: { each: group in all, name: group.name } }
`);
  const file = (size: string) => `RUNSA\x0dfox\x03FFFewe${size}EEB\x06owl\x02OO`;

  test('costs the rest of that list, and nothing behind it', async () => {
    expect(await readable(await opened(recipe, { 'sample.bin': file('\x02') }))).toEqual({
      fox: 'FFF',
      ewe: 'EE',
      owl: 'OO',
    });
    const archive = await opened(recipe, { 'sample.bin': file('\x09') });
    expect(await readable(archive)).toEqual({ fox: 'FFF', ewe: '!cut-short', owl: 'OO' });
    expect(archive.complaints[0]).toMatchObject({ code: 'cut-short', field: 'row[1].body', offset: 17 });
    expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(false);
  });

  test('is not written again, as nobody knows its end', async () => {
    const archive = await opened(recipe, { 'sample.bin': file('\x09') });
    const edits = { replace: new Map(), add: [], remove: new Set<number>() };
    await expect(planRebuild(archive, edits, { scratch: memoryScratch() })).rejects.toMatchObject({
      fault: { code: 'cut-short', entry: 'ewe' },
    });
  });
});

test('a name that runs over the end of its table costs its entry', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: NAME }
shapes:
  head: [{ field: magic, as: ascii(4), must: NAME }, { field: count, as: u8, is: count(entries) }, { field: names, as: u8, is: start(names) }]
  row: [{ field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
  name: [{ field: text, as: 'text(zero, ascii)', is: entry.path }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: 6, holds: 'row[head.count]' }
  - { region: data, holds: entries }
  - { region: names, at: head.names, holds: 'name[head.count]' }
presents: archive
entries: { each: row in rows, beside: [name in names], path: name.text, at: row.at, stored: row.size, size: row.size }
`);
  const file = 'NAME\x02\x0f\x0a\x03\x0d\x02FFFOOfox\0owl';
  const archive = await opened(recipe, { 'sample.bin': file });
  expect(await readable(archive)).toEqual({ fox: 'FFF', 'nameless/000001': '!cut-short' });
  expect(archive.complaints[0]).toMatchObject({ code: 'cut-short', field: 'name[1].text', offset: 19 });
  expect(await readable(await opened(recipe, { 'sample.bin': `${file}\0` }))).toEqual({ fox: 'FFF', owl: 'OO' });
});
