/** Archives laid over each other on the command line: later ones cover, and what they remove is gone. */
import { execFileSync, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeHold } from '../../demo/archives/hold';
import { bufferSource } from '../../src/core/bytes';
import { openArchive, uniquePaths } from '../../src/core/recipe';
import { loadRecipe } from '../../src/core/recipe/node';
import { chooseEntries } from '../../src/cli/layers';

const root = join(__dirname, '../..');
const work = mkdtempSync(join(tmpdir(), 'zero-latch-layers-'));
afterAll(() => rmSync(work, { recursive: true }));

const zip = (name: string, files: Readonly<Record<string, string>>) =>
  execFileSync(
    'python3',
    [
      '-c',
      'import json, sys, zipfile\nwith zipfile.ZipFile(sys.argv[1], "w") as z:\n for k, v in json.loads(sys.argv[2]).items(): z.writestr(k, v)',
      ...[name, JSON.stringify(files)],
    ],
    { cwd: work },
  );
const read = (...path: string[]) => readFileSync(join(work, ...path), 'utf8');

test('of entries with one path the last archive counts, and entries of all go out', () => {
  zip('base.zip', { 'a.txt': 'base', 'b.txt': 'base', 'c/d.txt': 'base' });
  zip('one.zip', { 'b.txt': 'one', 'e.txt': 'one' });
  zip('two.zip', { 'b.txt': 'two' });
  const args = ['take', 'base.zip', '--over', 'one.zip', '--over', 'two.zip', '--to', 'out'];
  const { status, stdout } = spawnSync(join(root, 'bin/zero-latch'), args, { cwd: work, encoding: 'utf8' });
  expect([status, stdout]).toEqual([0, '4 of 4 entries taken out to out\n']);
  expect(['a.txt', 'b.txt', 'c/d.txt', 'e.txt'].map((path) => read('out', path))).toEqual([
    'base',
    'two',
    'base',
    'one',
  ]);
});

test('a pattern chooses among what nothing covers', () => {
  const args = ['take', 'base.zip', '*.txt', '--over', 'one.zip', '--to', 'some'];
  expect(spawnSync(join(root, 'bin/zero-latch'), args, { cwd: work }).status).toBe(0);
  expect(read('some', 'b.txt')).toBe('one');
  expect(existsSync(join(work, 'some/c'))).toBe(false);
});

test('what a later archive marks as removed is in none', async () => {
  const recipe = await loadRecipe(join(root, 'recipes/hold-archive.yaml'));
  const key = randomBytes(32);
  const facts = { key, release: '1.4.1', built: 0 };
  const layer = async (...entries: Parameters<typeof writeHold>[0]) => {
    const source = bufferSource(new Uint8Array(writeHold(entries, facts)), 'a.hold');
    const archive = await openArchive(recipe, source, { keys: new Map([['content', key]]) });
    return { archive, sources: [], pathOf: uniquePaths(archive.entries) };
  };
  const text = (path: string) => ({ path, bytes: Buffer.from(path) });
  const layers = [
    await layer(text('a.txt'), text('b.txt'), text('c.txt')),
    await layer({ ...text('a.txt'), deleted: true }, text('b.txt')),
    await layer({ ...text('b.txt'), deleted: true }, text('d.txt')),
  ];
  const chosen = chooseEntries(layers, []);
  expect(chosen.map(({ path, layer: of }) => [path, layers.indexOf(of as (typeof layers)[0])])).toEqual([
    ['c.txt', 0],
    ['d.txt', 2],
  ]);
  // What is removed later does not come back because a pattern names it.
  expect(() => chooseEntries(layers, ['a.txt'])).toThrow('no entry is called a.txt');
});
