import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { buildPages, startApplication } from './application.mjs';
import { startPostgres } from './postgres.mjs';
import { run } from './run.mjs';
import { step } from './say.mjs';

const bin = (checkout, name) => join(checkout, 'node_modules', '.bin', name);

/** Format, lint, types, unused code, unit tests, then the real interface. The first that fails ends it. */
export async function runTests(checkout, args) {
  const only = args.find((arg) => arg.startsWith('--only='))?.slice(7);
  const checks = [
    ['format', 'Prettier', bin(checkout, 'prettier'), ['--check', '.']],
    ['lint', 'ESLint', bin(checkout, 'eslint'), ['.', '--max-warnings', '0']],
    ['types', 'Type-check', bin(checkout, 'tsc'), ['-p', '.']],
    ['unused', 'Unused code and dependencies', bin(checkout, 'knip'), []],
    ['unit', 'Unit tests', bin(checkout, 'jest'), ['--ci', '--selectProjects', 'unit']],
  ];
  for (const [key, name, command, parameters] of checks) {
    if (only !== undefined && only !== key) continue;
    step(name);
    const code = await run(command, parameters, { cwd: checkout });
    if (code !== 0) return code;
  }
  if (only !== undefined && only !== 'server' && only !== 'browser') return 0;
  return withApplication(checkout, async (env) => {
    if (only !== 'browser') {
      step('Tests against the database');
      const code = await run(bin(checkout, 'jest'), ['--ci', '--runInBand', '--selectProjects', 'server'], {
        cwd: checkout,
        env,
      });
      if (code !== 0) return code;
    }
    if (only === 'server') return 0;
    step('The real interface, in Chromium');
    return run(bin(checkout, 'playwright'), ['test'], { cwd: checkout, env });
  });
}

/** A database, storage and server of the tests' own, thrown away before and after. */
async function withApplication(checkout, work) {
  const home = join(checkout, '.zero-latch', 'test');
  for (const leftover of ['blobs', 'thumbnails', 'demo', 'out', 'games'])
    rmSync(join(home, leftover), { recursive: true, force: true });
  buildPages(checkout);
  const postgres = await startPostgres(home);
  const undo = [postgres.stop];
  const asked = () => void leave().then(() => process.exit(130));
  const leave = async () => {
    process.off('SIGINT', asked);
    process.off('SIGTERM', asked);
    for (const stop of undo.splice(0).reverse()) await stop();
  };
  process.on('SIGINT', asked);
  process.on('SIGTERM', asked);
  try {
    const url = await freshDatabase(postgres.url, checkout);
    const application = await startApplication(checkout, { url, home, roots: join(home, 'games'), wantedPort: 4390 });
    undo.push(application.stop);
    return await work({
      ...process.env,
      DATABASE_URL: url,
      ZERO_LATCH_HOME: home,
      ZERO_LATCH_CHECKOUT: checkout,
      ZERO_LATCH_ROOTS: join(home, 'games'),
      ZERO_LATCH_ADDRESS: application.address,
      ZERO_LATCH_WORKER_PID: String(application.worker.child.pid),
    });
  } finally {
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
  step('Benchmarks');
  return run(process.execPath, ['--require', 'tsx/cjs', join(checkout, 'tests', 'bench', 'main.ts'), ...args], {
    cwd: checkout,
  });
}
