import { rmSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { buildPages, startApplication } from './application.mjs';
import { auditPackages } from './audit.mjs';
import { startPostgres } from './postgres.mjs';
import { run } from './run.mjs';
import { Stop, step } from './say.mjs';

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
  const checks = lanes.map(inTurn);
  if (only === undefined || only === 'audit') checks.push(auditPackages(checkout));
  const failed = (await Promise.all(checks)).find((code) => code !== 0);
  if (failed !== undefined) return failed;
  const more = only === undefined ? [] : args.filter((arg) => !arg.startsWith('--only='));
  const suites = {
    unit: () => inTurn([['unit', 'Unit tests', 'jest', ['--ci', '--maxWorkers=1', '--selectProjects', 'unit', 'ui']]]),
    server: (bed) => serverTests(checkout, bed, more),
    browser: (bed) => browserTests(checkout, bed, more),
  };
  const wanted = Object.keys(suites).filter((name) => only === undefined || only === name);
  return withBeds(
    checkout,
    wanted.filter((name) => name !== 'unit'),
    async (beds) => {
      // Those against the database and in the browser leave a core free much of the time: all go on together.
      const ended = await Promise.allSettled(wanted.map((name) => suites[name](beds.find((bed) => bed.name === name))));
      // Only now: what one of them needs must not go while another still runs.
      const failed = ended.find(({ status }) => status === 'rejected');
      if (failed !== undefined) throw failed.reason;
      return ended.map(({ value }) => value).find((code) => code !== 0) ?? 0;
    },
  );
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

/** A database and storage of its own for each suite, emptied before, and removed again whatever happens. */
async function withBeds(checkout, names, work) {
  const beds = [];
  const demo = names.length === 0 ? undefined : await makeDemo(checkout);
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
    for (const name of names) beds.push(await makeBed(checkout, name, demo));
    return await work(beds);
  } finally {
    process.off('SIGUSR2', restart);
    process.off('SIGINT', asked);
    process.off('SIGTERM', asked);
    await leave();
  }
}

/** Both builds of the demo game, made once: tests work on copies. */
async function makeDemo(checkout) {
  const folder = join(checkout, '.zero-latch', 'test', 'demo');
  rmSync(folder, { recursive: true, force: true });
  step('Making the demo game');
  for (const build of ['1.4.1', '1.4.2']) {
    const made = ['demo', '--build', build, '--to', join(folder, build)];
    if ((await run(join(checkout, 'bin', 'zero-latch'), made, { cwd: checkout })) !== 0)
      throw new Stop('The demo game could not be made.');
  }
  return folder;
}

async function makeBed(checkout, name, demo) {
  const home = join(checkout, '.zero-latch', 'test', name);
  for (const leftover of ['blobs', 'films', 'thumbnails', 'games', 'out'])
    rmSync(join(home, leftover), { recursive: true, force: true });
  const postgres = await startPostgres(home);
  const url = await freshDatabase(postgres.url, checkout, `zero_latch_test_${name}`);
  const env = {
    ...process.env,
    DATABASE_URL: url,
    ZERO_LATCH_HOME: home,
    ZERO_LATCH_CHECKOUT: checkout,
    ZERO_LATCH_ROOTS: join(home, 'games'),
    ZERO_LATCH_DEMO_AS_MADE: demo,
    // No one restarts a server that is not ours.
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
    return run(process.execPath, [join(checkout, '.zero-latch', 'programs', 'bench.cjs'), ...args], {
      cwd: checkout,
      // The files of the benchmarks lie in memory where there is room.
      env: { ...env, ZERO_LATCH_ROOTS: [join(checkout, '.zero-latch'), '/dev/shm'].join(delimiter) },
    });
  });
}

/** Cases at random until one ends as none may: damaged archives, changed recipes, odd names; or workers killed while they work. */
export function runSoak(checkout, args) {
  const kills = numberAfter(args, '--kills');
  if (kills !== undefined) return runKills(checkout, kills, numberAfter(args, '--seed') ?? '1');
  step('Cases by lot');
  return run(process.execPath, [join(checkout, '.zero-latch', 'programs', 'soak.cjs'), ...args], { cwd: checkout });
}

/** Every kind of run, with its worker killed at a random moment; each must end as if nothing had happened. */
function runKills(checkout, kills, seed) {
  return withBeds(checkout, ['kills'], ([{ env }]) => {
    step(`${kills} kills at random moments`);
    return serverTests(checkout, { env: { ...env, ZERO_LATCH_KILLS: kills, ZERO_LATCH_KILLS_SEED: seed } }, [
      '--testPathPatterns',
      'killed',
    ]);
  });
}

/** The value of an option, as `--kills 200`. */
function numberAfter(args, name) {
  const at = args.indexOf(name);
  if (at < 0) return undefined;
  if (!/^\d+$/.test(args[at + 1] ?? '')) throw new Stop(`${name} is followed by a number.`);
  return args[at + 1];
}

/** Freely licensed game data from Debian, opened, changed and proven; the table goes into docs/foreign.md. */
export function runForeign(checkout, args) {
  step('Data from elsewhere');
  return run(process.execPath, [join(checkout, '.zero-latch', 'programs', 'foreign.cjs'), ...args], { cwd: checkout });
}
