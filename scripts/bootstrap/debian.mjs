import { existsSync, readdirSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { quietly } from './run.mjs';
import { Stop, step } from './say.mjs';

/** How to see that a Debian package is there without asking Debian, which takes seconds. */
const THERE = {
  postgresql: () => postgresBin() !== undefined,
  chromium: () => onPath('chromium'),
  lz4: () => onPath('lz4'),
  openssl: () => onPath('openssl'),
  python3: () => onPath('python3'),
  'p7zip-full': () => onPath('7z'),
  zstd: () => onPath('zstd'),
  'xz-utils': () => onPath('xz'),
  brotli: () => onPath('brotli'),
  admesh: () => onPath('admesh'),
  gettext: () => onPath('msgfmt'),
  xdelta3: () => onPath('xdelta3'),
  ffmpeg: () => onPath('ffmpeg'),
  lzop: () => onPath('lzop'),
  wimtools: () => onPath('wimlib-imagex'),
  bzip2: () => onPath('bzip2'),
};

function onPath(program) {
  return (process.env.PATH ?? '').split(delimiter).some((folder) => folder !== '' && existsSync(join(folder, program)));
}

/** The folder of the PostgreSQL server's programs: on the path, else the newest where Debian puts them; or undefined. */
export function postgresBin() {
  const onItsPath = (process.env.PATH ?? '')
    .split(delimiter)
    .find((folder) => folder !== '' && existsSync(join(folder, 'initdb')));
  if (onItsPath !== undefined) return onItsPath;
  const home = '/usr/lib/postgresql';
  const versions = existsSync(home)
    ? readdirSync(home).filter((version) => existsSync(join(home, version, 'bin', 'initdb')))
    : [];
  const newest = versions.sort((a, b) => Number(b) - Number(a))[0];
  return newest === undefined ? undefined : join(home, newest, 'bin');
}

/** What works without a package, and what does not. */
const WITHOUT = {
  ffmpeg: 'films and sounds of other formats are not converted',
  xdelta3: 'mods with differences of files are neither made nor read',
};

/** Installs the Debian packages that are missing, or says the command that does. */
export async function ensureDebian(names) {
  const needed = names.filter((name) => !(name === 'postgresql' && process.env.DATABASE_URL));
  const missing = needed.filter((name) => !THERE[name]());
  if (missing.length === 0) return step('Debian packages: all there');
  const install = ['apt-get', 'install', '-y', '--no-install-recommends', ...missing];
  const root = process.getuid() === 0;
  const sudo = !root && quietly('sudo', ['-n', 'true']).code === 0;
  if (!onPath('apt-get') || (!root && !sudo)) {
    const required = missing.filter((name) => WITHOUT[name] === undefined);
    if (required.length === 0) {
      for (const name of missing) step(`Without ${name}: ${WITHOUT[name]}`);
      return;
    }
    throw new Stop(
      `Missing: ${missing.join(', ')}. A PostgreSQL on the path or DATABASE_URL serves as well. Install with:\n\n  sudo apt-get update && sudo ${install.join(' ')}\n\nthen start this again.`,
    );
  }
  step(`Installing from Debian: ${missing.join(', ')}`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  for (const command of [['apt-get', 'update', '-q'], install]) {
    const [program, ...args] = sudo ? ['sudo', '-n', ...command] : command;
    const { code, output } = quietly(program, args, { env });
    if (code !== 0) throw new Stop(`${command.join(' ')} failed:\n${output.split('\n').slice(-15).join('\n')}`);
  }
  const still = missing.filter((name) => !THERE[name]());
  if (still.length > 0)
    throw new Stop(`Debian installed ${still.join(', ')}, but the programs are not where they should be.`);
}
