/** `bench-index-peak.cjs FILE`: opens a table and prints how much memory that took. */
import { readFileSync } from 'node:fs';
import { openAndCount } from './index-table';

void openAndCount(process.argv[2]!).then(() => {
  // The high-water mark of this program alone; what getrusage tells includes the process it was forked from.
  const [, kilobytes] = /VmHWM:\s+(\d+)/.exec(readFileSync('/proc/self/status', 'utf8'))!;
  process.stdout.write(`peak ${Math.round(Number(kilobytes) / 1024)}\n`);
});
