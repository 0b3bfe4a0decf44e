import { rmSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { buildPages, startApplication } from './application.mjs';
import { startPostgres } from './postgres.mjs';
import { run } from './run.mjs';
import { step } from './say.mjs';

const bin = (checkout, name) => join(checkout, 'node_modules', '.bin', name);

/** Format, lint, types, unused code, unit tests, then the real interface. The first that fails ends it. */
export async function runTests(checkout, args) {
  const only = args.find((arg) => arg.startsWith('--only='))?.slice(7);
  // Each of these keeps one core busy: two go on at a time.
  const lanes = [
    [
      ['format', 'Prettier', 'prettier', ['--check', '.']],
      ['lint', 'ESLint', 'eslint', ['.', '--max-warnings', '0']],
    ],
    [
      ['types', 'Type-check', 'tsc', ['-p', '.']],
      ['unused', 'Unused code and dependencies', 'knip', []],
    ],
  ];
  const inTurn = async (checks) => {
    for (const [key, name, command, parameters] of checks) {
      if (only !== undefined && only !== key) continue;
      step(name);
      const code = await run(bin(checkout, command), parameters, { cwd: checkout });
      if (code !== 0) return code;
    }
    return 0;
  };
  const failed = (await Promise.all(lanes.map(inTurn))).find((code) => code !== 0);
  if (failed !== undefined) return failed;
  const code = await inTurn([['unit', 'Unit tests', 'jest', ['--ci', '--selectProjects', 'unit']]]);
  if (code !== 0) return code;
  if (only !== undefined && only !== 'server' && only !== 'browser') return 0;
  const more = args.filter((arg) => !arg.startsWith('--only='));
  return withDatabase(checkout, async ({ url, home, env, undo }) => {
    // The tests against the database leave a core free most of the time.
    const built = only === 'server' ? undefined : buildPages(checkout);
    built?.catch(() => {});
    if (only !== 'browser') {
      step('Tests against the database');
      const code = await run(
        bin(checkout, 'jest'),
        ['--ci', '--runInBand', '--forceExit', ...(only === 'server' ? more : []), '--selectProjects', 'server'],
        {
          cwd: checkout,
          env,
        },
      );
      if (code !== 0) return code;
    }
    if (only === 'server') return 0;
    await built;
    const application = await startApplication(checkout, { url, home, roots: env.ZERO_LATCH_ROOTS, wantedPort: 4390 });
    undo.push(application.stop);
    step('The real interface, in Chromium');
    return run(bin(checkout, 'playwright'), ['test', ...more], {
      cwd: checkout,
      env: { ...env, ZERO_LATCH_ADDRESS: application.address },
    });
  });
}

/** How long the database stays away when a test restarts it. */
const RESTART_DOWN_MS = 3_000;

/** A database and storage of the tests' own, emptied before. */
async function withDatabase(checkout, work) {
  const home = join(checkout, '.zero-latch', 'test');
  for (const leftover of ['blobs', 'thumbnails', 'games', 'out', 'demo-as-made'])
    rmSync(join(home, leftover), { recursive: true, force: true });
  const postgres = await startPostgres(home);
  const undo = [postgres.stop];
  // A test asks for a real restart of the database by this signal.
  const restart = () => void postgres.restart?.(RESTART_DOWN_MS);
  process.on('SIGUSR2', restart);
  const leave = async () => {
    for (const stop of undo.splice(0).reverse()) await stop();
  };
  const asked = () => void leave().then(() => process.exit(130));
  process.on('SIGINT', asked);
  process.on('SIGTERM', asked);
  try {
    const url = await freshDatabase(postgres.url, checkout);
    const env = {
      ...process.env,
      DATABASE_URL: url,
      ZERO_LATCH_HOME: home,
      ZERO_LATCH_CHECKOUT: checkout,
      ZERO_LATCH_ROOTS: join(home, 'games'),
      // Nobody restarts a server that is not ours.
      ZERO_LATCH_RESTARTS_DATABASE: postgres.restart === undefined ? '' : String(process.pid),
    };
    return await work({ url, home, env, undo });
  } finally {
    process.off('SIGUSR2', restart);
    process.off('SIGINT', asked);
    process.off('SIGTERM', asked);
    await leave();
  }
}

async function freshDatabase(url, checkout) {
  const { createRequire } = await import('node:module');
  const { Client } = createRequire(join(checkout, 'package.json'))('pg');
  const client = new Client({ connectionString: url });
  await client.connect();
  await client.query('drop database if exists zero_latch_test with (force)');
  await client.query('create database zero_latch_test');
  await client.end();
  const fresh = new URL(url);
  fresh.pathname = '/zero_latch_test';
  return fresh.toString();
}

/** Figures as ratios against general tools, printed and kept in docs/benchmarks.md. */
export function runBench(checkout, args) {
  return withDatabase(checkout, async ({ env }) => {
    step('Benchmarks');
    return run(process.execPath, ['--require', 'tsx/cjs', join(checkout, 'tests', 'bench', 'main.ts'), ...args], {
      cwd: checkout,
      // The files of the benchmarks lie in memory where there is room.
      env: { ...env, ZERO_LATCH_ROOTS: [join(checkout, '.zero-latch'), '/dev/shm'].join(delimiter) },
    });
  });
}
