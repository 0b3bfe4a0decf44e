/**
 * Benchmarks: each figure as a ratio against a general tool in the same run, on the same data. Prints a table and, with
 * --write, keeps it in docs/benchmarks.md.
 */
import { cpus, totalmem } from 'node:os';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { measureAes } from './aes';
import { measureIndex } from './index-table';
import { measureRebuild } from './rebuild';
import { measureTakeOut } from './take-out';
import { table, type Row } from './table';

async function main(): Promise<void> {
  const checkout = join(__dirname, '..', '..');
  const home = join(checkout, '.zero-latch');
  mkdirSync(home, { recursive: true });
  const work = mkdtempSync(join(home, 'bench-'));
  const rows: Row[] = [];
  try {
    for (const measure of [measureIndex, measureAes, measureTakeOut, measureRebuild]) {
      for (const row of await measure(work)) {
        rows.push(row);
        process.stdout.write(`${table([row])[2]}\n`);
      }
    }
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
  const text = [
    '# Benchmarks',
    '',
    'Made by `npm run bench -- --write`. A ratio is the speed of Zero Latch divided by that of the general tool, both measured',
    'in the same run on the same data; above 1 is faster than the tool. Medians of three runs, after one to warm up.',
    '',
    `Machine: ${cpus().length} cores (${cpus()[0]?.model ?? 'unknown'}), ${Math.round(totalmem() / 2 ** 30)} GiB, Node ${process.versions.node}. Date: ${new Date().toISOString().slice(0, 10)}.`,
    '',
    ...table(rows),
    '',
  ].join('\n');
  process.stdout.write(`\n${text}`);
  if (process.argv.includes('--write')) writeFileSync(join(checkout, 'docs', 'benchmarks.md'), text);
}

void main();
