/** How much code there is, and how much of it are tests. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { quietly } from './run.mjs';
import { Stop } from './say.mjs';

const PARTS = [
  'src/core',
  'src/server',
  'src/ui',
  'src/cli',
  'src/programs',
  'src/worker',
  'src/workers',
  'app',
  'demo',
  'scripts',
];
const isTest = (file) => file.startsWith('tests/') || /\.test\.tsx?$/.test(file);

/** `npm run count`: lines that are neither empty nor comments, by part. */
export function countLines(checkout) {
  const { code, output } = quietly('git', ['ls-files', '*.ts', '*.tsx', '*.mjs', '*.py'], { cwd: checkout });
  if (code !== 0) throw new Stop(`git does not list the files:\n${output}`);
  const sums = new Map();
  for (const file of output.split('\n').filter((name) => name !== '')) {
    const part = isTest(file) ? 'tests' : (PARTS.find((one) => file.startsWith(`${one}/`)) ?? 'the rest');
    const sum = sums.get(part) ?? { files: 0, lines: 0 };
    sum.files++;
    sum.lines += linesOf(readFileSync(join(checkout, file), 'utf8'));
    sums.set(part, sum);
  }
  const all = [...sums.values()].reduce((total, { lines }) => total + lines, 0);
  for (const [part, { files, lines }] of [...sums].sort(([, a], [, b]) => b.lines - a.lines))
    process.stdout.write(
      `${part.padEnd(12)} ${String(lines).padStart(7)} lines  ${String(files).padStart(5)} files  ${((100 * lines) / all).toFixed(1).padStart(5)} %\n`,
    );
  process.stdout.write(`${'all'.padEnd(12)} ${String(all).padStart(7)} lines\n`);
  return 0;
}

function linesOf(text) {
  const code = text.replace(/\/\*[\s\S]*?\*\//g, '');
  return code.split('\n').filter((line) => !/^\s*(\/\/.*|#.*)?$/.test(line)).length;
}
