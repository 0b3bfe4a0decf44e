import { existsSync, mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { buildPages, startApplication } from './application.mjs';
import { keepRunning, lookAfter, takeTurn } from './keep.mjs';
import { startPostgres } from './postgres.mjs';
import { quietly } from './run.mjs';
import { Stop, step } from './say.mjs';

/** Everything a person needs to try Zero Latch, until Ctrl C. */
export async function runDemo(checkout) {
  const home = resolve(checkout, process.env.ZERO_LATCH_HOME ?? '.zero-latch');
  mkdirSync(home, { recursive: true });
  const turn = takeTurn(home);
  if (turn.address !== undefined) {
    process.stdout.write(`\nZero Latch runs here already: ${turn.address}\n`);
    return 0;
  }
  for (const stream of [process.stdout, process.stderr]) stream.on('error', () => {});
  const undo = [turn.letGo];
  let leaving;
  const leave = () =>
    (leaving ??= (async () => {
      process.stdout.write('\n');
      step('Stopping what was started');
      for (const stop of undo.reverse()) await stop();
    })());
  const stopping = new AbortController();
  // SIGHUP: the terminal was closed. Nothing goes on unseen, and what is printed may have no reader.
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => stopping.abort());
  const asked = new Promise((ask) => stopping.signal.addEventListener('abort', () => ask('asked')));
  try {
    makeDemoGame(checkout, home);
    await buildPages(checkout, stopping.signal);
    if (stopping.signal.aborted) {
      await leave();
      return 0;
    }
    const postgres = await startPostgres(home);
    undo.push(postgres.stop);
    const application = await startApplication(checkout, {
      url: postgres.url,
      home,
      roots: process.env.ZERO_LATCH_ROOTS,
      wantedPort: Number(process.env.ZERO_LATCH_PORT ?? 4310),
    });
    const now = { web: application.web, worker: application.worker };
    undo.push(() => Promise.all([now.web.stop(), now.worker.stop()]));
    if (postgres.mend !== undefined) undo.push(lookAfter('database', postgres.isRunning, postgres.mend));
    turn.say(application.address);
    process.stdout.write(
      `\nZero Latch is ready: ${application.address}\nThe demo game is in ${join(home, 'demo', 'gondola-post')}\nCtrl C stops everything.\n`,
    );
    const kept = (name, begin) =>
      keepRunning(name, now[name], begin, {
        now: (running) => (now[name] = running),
        stopped: () => leaving !== undefined,
      }).then(() => name);
    const end = await Promise.race([asked, kept('web', application.startWeb), kept('worker', application.startWorker)]);
    if (end !== 'asked')
      process.stderr.write(`The ${end} keeps ending by itself:\n${now[end]?.said().slice(-3000) ?? ''}\n`);
    await leave();
    return end === 'asked' ? 0 : 1;
  } catch (error) {
    await leave();
    throw error;
  }
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
