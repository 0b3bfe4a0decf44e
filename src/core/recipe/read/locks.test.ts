/** Which entries are locked, in archives of another program that may have locked ones. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bufferSource } from '../../bytes';
import { locksOf, openArchive } from '..';
import { loadRecipe } from '../node';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-locks-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('an entry is locked when its own bytes are, whatever others of its archive are', async () => {
  for (const name of ['open.txt', 'shut.txt']) writeFileSync(join(folder, name), 'Mind the doors. '.repeat(40));
  execFileSync('7z', ['a', '-tzip', 'both.zip', 'open.txt'], { cwd: folder });
  execFileSync('7z', ['a', '-tzip', '-pvalley', '-mem=AES256', 'both.zip', 'shut.txt'], { cwd: folder });
  const recipe = await loadRecipe(join(__dirname, '../../../../recipes/zip-archive.yaml'));
  const keys = new Map([['password', Buffer.from('valley')]]);
  const archive = await openArchive(recipe, bufferSource(readFileSync(join(folder, 'both.zip')), 'both.zip'), { keys });
  const locks = await Promise.all([0, 1].map((entry) => locksOf(archive, entry)));
  expect([0, 1].map((entry) => [archive.entries.path(entry), locks[entry]])).toEqual([
    ['open.txt', { index: false, entry: false }],
    ['shut.txt', { index: false, entry: true }],
  ]);
});
