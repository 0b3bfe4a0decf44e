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
  const suites = { server: serverTests, browser: browserTests };
  const wanted = Object.keys(suites).filter((name) => only === undefined || only === name);
  return withBeds(checkout, wanted, async (beds) => {
    // Tests against the database leave a core free most of the time, and so do those in the browser: both go on together.
    const codes = await Promise.all(beds.map((bed) => suites[bed.name](checkout, bed, only === undefined ? [] : more)));
    return codes.find((one) => one !== 0) ?? 0;
  });
}

function serverTests(checkout, { env }, more) {
  step('Tests against the database');
  return run(bin(checkout, 'jest'), ['--ci', '--runInBand', '--forceExit', ...more, '--selectProjects', 'server'], {
    cwd: checkout,
    env,
  });
}

async function browserTests(checkout, { url, home, env, undo }, more) {
  await buildPages(checkout);
  const application = await startApplication(checkout, { url, home, roots: env.ZERO_LATCH_ROOTS, wantedPort: 4390 });
  undo.push(application.stop);
  step('The real interface, in Chromium');
  return run(bin(checkout, 'playwright'), ['test', ...more], {
    cwd: checkout,
    env: { ...env, ZERO_LATCH_ADDRESS: application.address },
  });
}

/** How long the database stays away when a test restarts it. */
const RESTART_DOWN_MS = 3_000;

/** A database and storage of its own for each suite, emptied before, and gone again whatever happens. */
async function withBeds(checkout, names, work) {
  const beds = [];
  const leave = async () => {
    for (const { undo } of beds.splice(0)) for (const stop of undo.splice(0).reverse()) await stop();
  };
  const asked = () => void leave().then(() => process.exit(130));
  process.on('SIGINT', asked);
  process.on('SIGTERM', asked);
  // A test asks for a real restart of its database by this signal.
  const restart = () => void beds.find(({ name }) => name === 'browser')?.restart?.(RESTART_DOWN_MS);
  process.on('SIGUSR2', restart);
  try {
    // One after the other: each looks for a port that is free.
    for (const name of names) beds.push(await makeBed(checkout, name));
    return await work(beds);
  } finally {
    process.off('SIGUSR2', restart);
    process.off('SIGINT', asked);
    process.off('SIGTERM', asked);
    await leave();
  }
}

async function makeBed(checkout, name) {
  const home = join(checkout, '.zero-latch', 'test', name);
  for (const leftover of ['blobs', 'films', 'thumbnails', 'games', 'out', 'demo-as-made'])
    rmSync(join(home, leftover), { recursive: true, force: true });
  const postgres = await startPostgres(home);
  const url = await freshDatabase(postgres.url, checkout, `zero_latch_test_${name}`);
  const env = {
    ...process.env,
    DATABASE_URL: url,
    ZERO_LATCH_HOME: home,
    ZERO_LATCH_CHECKOUT: checkout,
    ZERO_LATCH_ROOTS: join(home, 'games'),
    // Nobody restarts a server that is not ours.
    ZERO_LATCH_RESTARTS_DATABASE: postgres.restart === undefined ? '' : String(process.pid),
  };
  return { name, url, home, env, restart: postgres.restart, undo: [postgres.stop] };
}

async function freshDatabase(url, checkout, name) {
  const { createRequire } = await import('node:module');
  const { Client } = createRequire(join(checkout, 'package.json'))('pg');
  const client = new Client({ connectionString: url });
  await client.connect();
  await client.query(`drop database if exists ${name} with (force)`);
  await client.query(`create database ${name}`);
  await client.end();
  const fresh = new URL(url);
  fresh.pathname = `/${name}`;
  return fresh.toString();
}

/** Figures as ratios against general tools, printed and kept in docs/benchmarks.md. */
export function runBench(checkout, args) {
  return withBeds(checkout, ['bench'], async ([{ env }]) => {
    step('Benchmarks');
    return run(process.execPath, ['--require', 'tsx/cjs', join(checkout, 'tests', 'bench', 'main.ts'), ...args], {
      cwd: checkout,
      // The files of the benchmarks lie in memory where there is room.
      env: { ...env, ZERO_LATCH_ROOTS: [join(checkout, '.zero-latch'), '/dev/shm'].join(delimiter) },
    });
  });
}
