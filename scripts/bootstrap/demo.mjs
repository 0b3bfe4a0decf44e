import { existsSync, mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { buildPages, startApplication } from './application.mjs';
import { startPostgres } from './postgres.mjs';
import { quietly } from './run.mjs';
import { Stop, step } from './say.mjs';

/** Everything a person needs to try Zero Latch, until Ctrl C. */
export async function runDemo(checkout) {
  const home = resolve(checkout, process.env.ZERO_LATCH_HOME ?? '.zero-latch');
  const undo = [];
  let leaving;
  const leave = () =>
    (leaving ??= (async () => {
      process.stdout.write('\n');
      step('Stopping what was started');
      for (const stop of undo.reverse()) await stop();
    })());
  const asked = new Promise((ask) => {
    process.on('SIGINT', () => ask('asked'));
    process.on('SIGTERM', () => ask('asked'));
  });
  try {
    makeDemoGame(checkout, home);
    await buildPages(checkout);
    const postgres = await startPostgres(home);
    undo.push(postgres.stop);
    const application = await startApplication(checkout, {
      url: postgres.url,
      home,
      roots: process.env.ZERO_LATCH_ROOTS,
      wantedPort: Number(process.env.ZERO_LATCH_PORT ?? 4310),
    });
    undo.push(application.stop);
    process.stdout.write(
      `\nZero Latch is ready: ${application.address}\nThe demo game is in ${join(home, 'demo', 'gondola-post')}\nCtrl C stops everything.\n`,
    );
    const end = await Promise.race([asked, application.web.ended.then(() => 'web'), keepWorker(application, undo)]);
    if (end !== 'asked')
      process.stderr.write(`The ${end} ended by itself:\n${application[end]?.said().slice(-3000) ?? ''}\n`);
    await leave();
    return end === 'asked' ? 0 : 1;
  } catch (error) {
    await leave();
    throw error;
  }
}

/** A worker that dies is started again, a few times: its runs wait to be resumed. */
async function keepWorker(application, undo) {
  let worker = application.worker;
  for (let again = 0; again < 5; again++) {
    await worker.ended;
    if (application.web.child.exitCode !== null) return new Promise(() => {});
    step('The worker ended; starting it again');
    worker = application.startWorker();
    undo.push(worker.stop);
  }
  await worker.ended;
  return 'worker';
}

function makeDemoGame(checkout, home) {
  const folder = join(home, 'demo', 'gondola-post');
  if (existsSync(join(folder, 'core.hold'))) return step('Demo game: there');
  step('Making the demo game, Gondola Post');
  mkdirSync(folder, { recursive: true });
  const { code, output } = quietly(join(checkout, 'bin', 'zero-latch'), [
    'demo',
    '--size',
    'small',
    '--build',
    '1.4.1',
    '--to',
    folder,
  ]);
  if (code !== 0) throw new Stop(`The demo game could not be made:\n${output}`);
  process.stdout.write(output.replace(/^/gm, '  ').trimEnd() + '\n');
}
