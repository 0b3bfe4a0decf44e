/** Damaged and hostile files on the command line: the longest, and the one that needs the most memory, against the bar. */
import { join } from 'node:path';
import { commandLine } from '../support/command-line';
import { hostileCases } from '../support/hostile-files';
import { say, type Row } from './table';

const MOST_SECONDS = 5;
const MOST_MEMORY = 512;

export async function measureHostile(work: string): Promise<Row[]> {
  const folder = join(work, 'hostile');
  const runs = hostileCases(folder).map((one) => ({ one, ...commandLine(one.args) }));
  const longest = runs.reduce((a, b) => (b.seconds > a.seconds ? b : a));
  const largest = runs.reduce((a, b) => (b.megabytes > a.megabytes ? b : a));
  return [
    {
      what: 'hostile files refused, the longest',
      on: `${runs.length} files; ${longest.one.name}`,
      ours: say(longest.seconds),
      tool: 'the bar',
      theirs: say(MOST_SECONDS),
      ratio: MOST_SECONDS / longest.seconds,
      bar: '5 s',
    },
    {
      what: 'hostile files refused, most memory',
      on: largest.one.name,
      ours: `${Math.round(largest.megabytes)} MiB`,
      tool: 'the bar',
      theirs: `${MOST_MEMORY} MiB`,
      ratio: MOST_MEMORY / largest.megabytes,
      bar: '512 MB',
    },
  ];
}
