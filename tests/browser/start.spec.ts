/** The start command on a machine without apt, ffmpeg and xdelta3: it starts, says what is missing where it would be used, and ends quietly. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { delimiter, join } from 'node:path';
import { expect, test } from '@playwright/test';
import { gameKey } from '../../demo/make-game';
import { GAMES, makeGame, openGame, tryKey } from './support';

const BOOTSTRAP = join(__dirname, '../../scripts/bootstrap.mjs');
let top: string;
test.beforeAll(() => {
  top = mkdtempSync(join(tmpdir(), 'zero-latch-start-'));
  // PostgreSQL runs as a user of its own where the tests run as root.
  chmodSync(top, 0o755);
});
test.afterAll(() => rmSync(top, { recursive: true, force: true }));

/** All that is on the path: the database's programs, what starts them as another user, and Node. */
function poorPath(): string {
  const folder = join(top, 'programs');
  mkdirSync(folder);
  const link = (from: string, name: string) => symlinkSync(join(from, name), join(folder, name));
  symlinkSync(process.execPath, join(folder, 'node'));
  const server = debianServer();
  for (const name of ['initdb', 'pg_ctl', 'postgres']) link(server, name);
  for (const name of ['runuser', 'chown', 'test', 'tail'])
    link(
      ['/usr/bin', '/usr/sbin', '/bin', '/sbin'].find((from) => existsSync(join(from, name)))!,
      name,
    );
  return folder;
}

function debianServer(): string {
  const home = '/usr/lib/postgresql';
  const version = readdirSync(home).find((name) => existsSync(join(home, name, 'bin/initdb')));
  return join(home, version!, 'bin');
}

interface Started {
  readonly child: ChildProcess;
  said: string;
}

function start(path: string): Started {
  const { DATABASE_URL: _, ...env } = process.env;
  const child = spawn(process.execPath, [BOOTSTRAP, 'demo'], {
    env: {
      ...env,
      PATH: path,
      ZERO_LATCH_HOME: join(top, 'home'),
      ZERO_LATCH_ROOTS: [GAMES, join(top, 'home', 'demo')].join(delimiter),
      ZERO_LATCH_PORT: '4490',
    },
  });
  const started: Started = { child, said: '' };
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (text: Buffer) => void (started.said += String(text)));
  return started;
}

/** Which processes still have something to do with the home. */
const leftRunning = (): string[] =>
  readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .filter((pid) => {
      try {
        return readFileSync(`/proc/${pid}/environ`, 'utf8').includes(`ZERO_LATCH_HOME=${top}`);
      } catch {
        // It has ended, or belongs to someone else.
        return false;
      }
    });

test('without apt, ffmpeg and xdelta3 it starts, says so where a film would play, and ends quietly on Ctrl C', async ({
  browser,
}) => {
  const path = poorPath();
  const first = start(path);
  await expect.poll(() => first.said, { timeout: 120_000 }).toContain('Zero Latch is ready: ');
  expect(first.said).toContain('Without ffmpeg: films and sounds of other formats are not converted');
  expect(first.said).toContain('Without xdelta3: mods with differences of files are neither made nor read');
  const address = /Zero Latch is ready: (\S+)/.exec(first.said)![1]!;

  const context = await browser.newContext({ baseURL: address });
  const page = await context.newPage();
  const id = await openGame(page, makeGame('poor'));
  await tryKey(page, gameKey('1.4.1', 'reel').toString('hex'));
  await expect(page.getByTestId('archive scenes.reel')).toContainText('70 entries', { timeout: 60_000 });
  await page.goto(`/games/${id}/find?folder=film/pictures&view=list`);
  await page.getByRole('option', { name: /000500\.png/ }).click();
  await page.getByRole('button', { name: 'Play the film' }).click();
  await expect(page.getByText('ffmpeg is not installed').first()).toBeVisible();
  await context.close();

  const second = start(path);
  expect((await once(second.child, 'close'))[0]).toBe(0);
  expect(second.said).toContain(`Zero Latch runs here already: ${address}`);

  first.said = '';
  first.child.kill('SIGINT');
  expect((await once(first.child, 'close'))[0]).toBe(0);
  expect(first.said.trim()).toBe('• Stopping what was started');
  expect(leftRunning()).toEqual([]);
  expect(existsSync(join(top, 'home', 'running.json'))).toBe(false);
  await expect(fetch(address)).rejects.toThrow('fetch failed');

  // The same again, until its terminal is closed: nothing reads what it prints any more.
  const third = start(path);
  await expect.poll(() => third.said, { timeout: 120_000 }).toContain('Zero Latch is ready: ');
  third.child.stdout!.destroy();
  third.child.stderr!.destroy();
  third.child.kill('SIGHUP');
  expect((await once(third.child, 'exit'))[0]).toBe(0);
  expect(leftRunning()).toEqual([]);
});
