/**
 * `npm run foreign [-- PACKAGE…]`: installs freely licensed game data from Debian, opens all of it, takes every entry out, and proves
 * every archive. The table goes into docs/foreign.md. Ends with 1 when an entry does not come out.
 */
import { execFileSync } from 'node:child_process';
import { readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { loadRecipes } from '../../src/core/recipe/node';
import { lookAt, type Row, type Score } from './look';
import { PACKAGES } from './packages';

const PAGE = join('docs', 'foreign.md');
const BEGIN = '<!-- table: made by npm run foreign -->';
const END = '<!-- end of table -->';

function install(names: readonly string[]): void {
  const missing = names.filter((name) => !isInstalled(name));
  if (missing.length === 0) return;
  const sudo = process.getuid?.() === 0 ? [] : ['sudo', '-n'];
  const [program, ...args] = [...sudo, 'apt-get', 'install', '-y', '--no-install-recommends', ...missing];
  execFileSync(program!, args, { stdio: ['ignore', 'ignore', 'inherit'] });
}

function isInstalled(name: string): boolean {
  try {
    return execFileSync('dpkg', ['-s', name], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] }).includes(
      'install ok installed',
    );
  } catch {
    return false;
  }
}

const GAMES = '/usr/share/games/';

/** The files of a package that belong to a game. */
function filesOf(name: string): string[] {
  const paths = execFileSync('dpkg', ['-L', name], { encoding: 'utf8' }).split('\n');
  return paths
    .filter((path) => path.startsWith(GAMES) && statSync(path, { throwIfNoEntry: false })?.isFile() === true)
    .sort();
}

const countWords = (counts: Readonly<Record<string, number>>) =>
  Object.entries(counts)
    .sort(([, a], [, b]) => b - a)
    .map(([key, number]) => `${number.toLocaleString('en')} ${key}`)
    .join(', ') || 'none';

const scoreWords = (counts: Readonly<Record<string, Score>>) =>
  Object.entries(counts)
    .map(([kind, { ok, of, refused }]) => `${ok} of ${of} ${kind}${refused > 0 ? ` (${refused} refused)` : ''}`)
    .join(', ') || 'none';

function tableOf(rows: readonly Row[]): string {
  const lines = rows.map(
    ({ name, files, bytes, archives, loose, unknown, kinds, previewed, back, entries, out, proven, seconds }) =>
      `| ${name} | ${files.toLocaleString('en')} | ${Math.round(bytes / 1e6)} MB | ${archives} | ${loose.toLocaleString('en')} | ${countWords(unknown)} | ${countWords(kinds)} | ${scoreWords(previewed)} | ${scoreWords(back)} | ${out.toLocaleString('en')} of ${entries.toLocaleString('en')} | ${proven} of ${archives} | ${seconds.toFixed(1)} |`,
  );
  const troubles = rows.flatMap(({ name, troubles: own }) =>
    [...own].map(([one, count]) => `- ${name}${count > 1 ? `, ${count} times` : ''}: ${one}`),
  );
  return [
    `Measured on ${new Date().toISOString().slice(0, 10)}, with Node ${process.versions.node}.`,
    '',
    '| package | files | size | archives | loose files | unknown | forms | seen or heard of a sample | changed and put back | entries taken out whole | archives proven | seconds |',
    '| --- | --: | --: | --: | --: | --- | --- | --- | --- | --- | --- | --: |',
    ...lines,
    '',
    ...(troubles.length === 0 ? [] : ['What was not as it should be:', '', ...troubles, '']),
  ].join('\n');
}

async function main(): Promise<void> {
  const names = process.argv.length > 2 ? process.argv.slice(2) : [...PACKAGES];
  install(names);
  const recipes = await loadRecipes('recipes');
  const rows: Row[] = [];
  for (const name of names) {
    const row = await lookAt(name, filesOf(name), recipes);
    rows.push(row);
    process.stdout.write(
      `${name}: ${row.files} files, ${row.out} of ${row.entries} entries, ${row.proven} of ${row.archives} proven, ${row.seconds.toFixed(1)} s\n`,
    );
  }
  const table = tableOf(rows);
  process.stdout.write(`\n${table}\n`);
  if (names.length === PACKAGES.length) {
    const page = readFileSync(PAGE, 'utf8');
    const [before, rest] = page.split(BEGIN) as [string, string];
    writeFileSync(PAGE, `${before}${BEGIN}\n\n${table}\n${END}${rest.split(END)[1]}`);
  }
  if (rows.some(({ out, entries }) => out < entries)) process.exitCode = 1;
}

void main();
