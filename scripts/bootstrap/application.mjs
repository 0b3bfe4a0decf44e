/** Building and starting the web server and the worker. */
import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { freePort } from './postgres.mjs';
import { start } from './run.mjs';
import { Stop, step } from './say.mjs';

/**
 * Builds the pages when what they are made of has changed. Other work may go on meanwhile.
 *
 * @param signal ends it; no error is printed for pages that were not built
 */
export async function buildPages(checkout, signal) {
  const wanted = sourcesHash(checkout);
  const mark = join(checkout, '.next', 'zero-latch-sources');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === wanted) return step('Pages: built');
  step('Building the pages');
  const env = { ...process.env, NODE_ENV: 'production', NEXT_TELEMETRY_DISABLED: '1' };
  const next = join(checkout, 'node_modules/next/dist/bin/next');
  const failed = await new Promise((resolve) => {
    execFile(
      process.execPath,
      [next, 'build'],
      { cwd: checkout, env, signal, maxBuffer: 64 << 20 },
      (error, out, wrong) => resolve(error === null ? undefined : `${out}\n${wrong}`),
    );
  });
  if (signal?.aborted) return;
  if (failed !== undefined)
    throw new Stop(`The pages could not be built:\n${failed.trim().split('\n').slice(-40).join('\n')}`);
  writeFileSync(mark, wanted);
}

function sourcesHash(checkout) {
  const hash = createHash('sha256');
  const visit = (path) => {
    for (const name of readdirSync(path).sort()) {
      const full = join(path, name);
      if (statSync(full).isDirectory()) visit(full);
      else if (!/\.test\.tsx?$/.test(name)) hash.update(full).update(readFileSync(full));
    }
  };
  for (const folder of ['app', 'src', 'public']) if (existsSync(join(checkout, folder))) visit(join(checkout, folder));
  for (const file of ['next.config.ts', 'proxy.ts', 'package-lock.json'])
    hash.update(readFileSync(join(checkout, file)));
  return hash.digest('hex');
}

const LOOPBACK = /^(localhost|127(\.\d+){3}|::1)$/;

/** The address the server listens on. @throws Stop when others could reach it and no passphrase is set */
function boundTo(home) {
  const bind = process.env.ZERO_LATCH_BIND ?? '127.0.0.1';
  const names = (process.env.ZERO_LATCH_HOSTS ?? '').split(',').map((name) => name.trim().replace(/:\d+$/, ''));
  const isOpen = [bind, ...names.filter((name) => name !== '')].some((name) => !LOOPBACK.test(name));
  if (!isOpen) return bind;
  const file = join(home, 'access.json');
  if (!existsSync(file) || JSON.parse(readFileSync(file, 'utf8')).full === undefined)
    throw new Stop(
      'Others could reach this server (ZERO_LATCH_BIND, ZERO_LATCH_HOSTS), and no passphrase is set. Run npm run passphrase first.',
    );
  step(
    `Everybody who comes from ${bind} or by ${names.filter((name) => name !== '').join(', ') || 'another name'} signs in`,
  );
  return bind;
}

/** Starts web and worker and waits until both answer. */
export async function startApplication(checkout, { url, home, roots, wantedPort }) {
  const bind = boundTo(home);
  const port = await freePort(wantedPort);
  if (port !== wantedPort) step(`Port ${wantedPort} is taken; using ${port}`);
  const env = {
    ...process.env,
    NODE_ENV: 'production',
    NEXT_TELEMETRY_DISABLED: '1',
    DATABASE_URL: url,
    ZERO_LATCH_HOME: home,
    ZERO_LATCH_CHECKOUT: checkout,
    ZERO_LATCH_PORT: String(port),
    ...(roots === undefined ? {} : { ZERO_LATCH_ROOTS: roots }),
  };
  const log = (name) => join(home, 'log', `${name}.log`);
  const startWorker = () =>
    start(process.execPath, [join(checkout, '.zero-latch', 'programs', 'worker.cjs')], {
      cwd: checkout,
      env,
      log: log('worker'),
    });
  const worker = startWorker();
  const begun = [worker];
  // What did not all start does not stay half started.
  const orStop = (started) =>
    started.catch(async (error) => {
      await Promise.all(begun.map((one) => one.stop()));
      throw error;
    });
  await orStop(waitFor(() => worker.said().includes('worker ready'), worker, 'The worker'));
  const startWeb = () =>
    start(process.execPath, [join(checkout, '.zero-latch', 'programs', 'web.cjs')], {
      cwd: checkout,
      env: { ...env, ZERO_LATCH_BIND: bind },
      log: log('web'),
    });
  const web = startWeb();
  begun.push(web);
  const address = `http://${LOOPBACK.test(bind) || /^(0\.0\.0\.0|::)$/.test(bind) ? '127.0.0.1' : bind}:${port}`;
  const answers = () =>
    fetch(`${address}/api/games`).then(
      // Where people sign in, whoever has not is told so.
      (answer) => answer.ok || answer.status === 401,
      () => false,
    );
  await orStop(waitFor(answers, web, 'The web server'));
  return { address, worker, web, startWeb, startWorker, stop: () => Promise.all([web.stop(), worker.stop()]) };
}

async function waitFor(ready, process_, name) {
  const until = Date.now() + 60_000;
  while (Date.now() < until) {
    if (await ready()) return;
    if (process_.child.exitCode !== null) break;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Stop(`${name} did not start:\n${process_.said().slice(-3000)}`);
}
