/**
 * `node scripts/bootstrap.mjs demo|test|bench|soak|foreign|passphrase|count`: brings a fresh machine to where the work can start, then does it.
 * It depends on nothing but Node, says what it does, and does nothing twice.
 */
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { countLines } from './bootstrap/count.mjs';
import { ensureDebian } from './bootstrap/debian.mjs';
import { runDemo } from './bootstrap/demo.mjs';
import { ensurePackages } from './bootstrap/packages.mjs';
import { setPassphrase } from './bootstrap/passphrase.mjs';
import { ensurePrograms } from './bootstrap/programs.mjs';
import { Stop, step } from './bootstrap/say.mjs';
import { runBench, runForeign, runSoak, runTests } from './bootstrap/tests.mjs';

const checkout = join(dirname(fileURLToPath(import.meta.url)), '..');
const [task = 'demo', ...args] = process.argv.slice(2);

/** What the application itself calls: the database, sounds and films, and differences of files. */
const OURS = ['postgresql', 'ffmpeg', 'xdelta3'];

const TASKS = {
  demo: { debian: OURS, run: runDemo },
  test: {
    debian: [
      ...OURS,
      'chromium',
      'lz4',
      'openssl',
      'python3',
      'p7zip-full',
      'zstd',
      'xz-utils',
      'brotli',
      'lzop',
      'wimtools',
      'bzip2',
      'gettext',
      'admesh',
    ],
    run: runTests,
  },
  bench: {
    debian: [...OURS, 'chromium', 'openssl', 'lz4', 'python3', 'zstd', 'xz-utils', 'brotli', 'gettext', 'admesh'],
    run: runBench,
  },
  // Kills need what the application itself calls; cases at random call nothing.
  soak: { debian: args.includes('--kills') ? [...OURS, 'python3'] : [], run: runSoak },
  // These need nothing but Node.
  passphrase: { run: setPassphrase },
  count: { run: countLines },
  // Installs the game data it looks at by itself, and is never part of the tests.
  foreign: { debian: [], run: runForeign },
};

try {
  const chosen = TASKS[task];
  if (chosen === undefined) throw new Stop(`There is no task ${task}. There are: ${Object.keys(TASKS).join(', ')}.`);
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new Stop(`Zero Latch runs on Node 20.19 and later, and this is ${process.versions.node}.`);
  step(`Zero Latch: ${task}`);
  if (chosen.debian !== undefined) {
    await ensureDebian(chosen.debian);
    await ensurePackages(checkout);
    step('Programs that run beside the pages');
    await ensurePrograms(checkout);
  }
  process.exitCode = await chosen.run(checkout, args);
} catch (error) {
  if (!(error instanceof Stop)) throw error;
  process.stderr.write(`\n${error.message}\n`);
  process.exitCode = 1;
}
