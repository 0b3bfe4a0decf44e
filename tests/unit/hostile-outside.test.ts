/** Hostile files on the command line: each a process of its own, whose memory and words are judged from outside. */
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { commandLine } from '../support/command-line';
import { hostileCases } from '../support/hostile-files';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-hostile-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** What no process may need, in MiB. */
const MOST_MEMORY = 512;

test.each(hostileCases(folder).map((one) => [one.name, one] as const))('%s ends in a clear fault', (_, one) => {
  const before = readdirSync(folder);
  const { status, stderr, megabytes } = commandLine(one.args);
  expect(stderr).toMatch(one.says);
  expect(status).toBe(1);
  expect(megabytes).toBeLessThan(MOST_MEMORY);
  // Nothing half-written is left.
  expect(readdirSync(folder).filter((name) => name !== 'out' && !before.includes(name))).toEqual([]);
});
