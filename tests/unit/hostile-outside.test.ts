/** Hostile files on the command line: each a process of its own, whose memory and words are judged from outside. */
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hostileCases, runHostile } from '../support/hostile-files';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-hostile-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** What no process may need, in MiB. */
const MOST_MEMORY = 512;

test.each(hostileCases(folder).map((one) => [one.name, one] as const))('%s ends in a clear fault', (_, one) => {
  const before = readdirSync(folder);
  const { status, stderr, memory } = runHostile(one, folder);
  expect(stderr).toMatch(one.says);
  expect(status).toBe(1);
  expect(memory).toBeLessThan(MOST_MEMORY);
  // Nothing half-written is left: the folder holds what it held, and the report of the run.
  const left = readdirSync(folder).filter((name) => !before.includes(name) && !/^(memory|out)/.test(name));
  expect(left).toEqual([]);
});
