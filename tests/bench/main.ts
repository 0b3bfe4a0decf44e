/**
 * Benchmarks: each figure as a ratio against a general tool in the same run, on the same data. Prints a table and, with
 * --write, keeps it in docs/benchmarks.md; --only=game measures what has that in its name, and keeps the other rows.
 */
import { cpus, totalmem } from 'node:os';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { measureAes } from './aes';
import { measureFind } from './find-million';
import { measureForms } from './forms';
import { measureHostile } from './hostile';
import { measureIndex } from './index-table';
import { measureMethods } from './methods';
import { measurePictures } from './pictures';
import { measureSounds } from './sounds';
import { measureGame } from './open-game';
import { measureRebuild } from './rebuild';
import { measureTakeOut } from './take-out';
import { table, type Row } from './table';

/** Bytes that the benchmarks keep at most at a time. */
const NEEDED_BYTES = 6 * 2 ** 30;

/** In memory where there is room: a disk's own ups and downs would drown what is compared. */
function workFolder(checkout: string): string {
  const memory = '/dev/shm';
  const space = existsSync(memory) ? statfsSync(memory) : undefined;
  if (space !== undefined && space.bavail * space.bsize > NEEDED_BYTES) return memory;
  const home = join(checkout, '.zero-latch');
  mkdirSync(home, { recursive: true });
  return home;
}

/** The table that is kept, with the rows that were measured again in their places, and new ones at its end. */
function merged(fresh: readonly string[], page: string): string[] {
  const what = (line: string) => line.split('|').slice(1, 3).join('|');
  const rows = new Map(fresh.slice(2).map((line) => [what(line), line]));
  const kept = readFileSync(page, 'utf8')
    .split('\n')
    .filter((line) => line.startsWith('|'))
    .slice(2)
    .map((line) => {
      const now = rows.get(what(line)) ?? line;
      rows.delete(what(line));
      return now;
    });
  return [...fresh.slice(0, 2), ...kept, ...rows.values()];
}

async function main(): Promise<void> {
  const checkout = join(__dirname, '..', '..');
  const work = mkdtempSync(join(workFolder(checkout), 'zero-latch-bench-'));
  const rows: Row[] = [];
  const only = process.argv.find((arg) => arg.startsWith('--only='))?.slice('--only='.length);
  try {
    for (const measure of [
      measureAes,
      measureMethods,
      measurePictures,
      measureSounds,
      measureForms,
      measureTakeOut,
      measureRebuild,
      measureIndex,
      measureHostile,
      measureFind,
      measureGame,
    ]) {
      if (only !== undefined && !measure.name.toLowerCase().includes(only)) continue;
      for (const row of await measure(work)) {
        rows.push(row);
        process.stdout.write(`${table([row])[2]}\n`);
      }
    }
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
  const page = join(checkout, 'docs', 'benchmarks.md');
  const text = [
    '# Benchmarks',
    '',
    'Made by `npm run bench -- --write`. A ratio is the speed of Zero Latch divided by that of the general tool, both measured',
    'in the same run on the same data; above 1 is faster than the tool. Medians of three runs, after one to warm up.',
    `Files lie in ${work.startsWith('/dev/shm') ? 'memory (tmpfs), so that the disk is not measured' : 'the checkout'}.`,
    '',
    `Machine: ${cpus().length} cores (${cpus()[0]?.model ?? 'unknown'}), ${Math.round(totalmem() / 2 ** 30)} GiB, Node ${process.versions.node}. Date: ${new Date().toISOString().slice(0, 10)}.`,
    '',
    ...(only === undefined ? table(rows) : merged(table(rows), page)),
    '',
  ].join('\n');
  process.stdout.write(`\n${text}`);
  if (process.argv.includes('--write')) writeFileSync(page, text);
}

void main();
