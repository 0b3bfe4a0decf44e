/** A server for several people: who comes in, what they may do, and a game that is sent to it. */
import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { existsSync, readFileSync, rmSync, statSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { demoAsMade, GAMES, HOME } from './support';

const CHECKOUT = join(__dirname, '../..');
const [FULL, LOOK] = ['a passphrase for all', 'a passphrase to look'];

let server: ChildProcess;
let address: string;
let port: number;

async function startServer(): Promise<ChildProcess> {
  const started = spawn(process.execPath, [join(CHECKOUT, '.zero-latch/programs/web.cjs')], {
    cwd: CHECKOUT,
    env: {
      ...process.env,
      ...{ ZERO_LATCH_HOSTS: 'mods.example', ZERO_LATCH_PORT: String(port), ZERO_LATCH_CHECKOUT: CHECKOUT },
      NODE_ENV: 'production',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve) =>
    started.stdout!.on('data', (text: Buffer) => String(text).includes('web ready') && resolve()),
  );
  return started;
}

/** A second web server on the same database, which a name of elsewhere leads to. */
test.beforeAll(async () => {
  const env = { ...process.env, ZERO_LATCH_HOSTS: 'mods.example' };
  const start = () => execFileSync('node', ['-e', START], { cwd: CHECKOUT, env, encoding: 'utf8' });
  rmSync(join(HOME, 'access.json'), { force: true });
  expect(start).toThrow(/no passphrase is set/);
  for (const [passphrase, ...args] of [[FULL], [LOOK, '--look']])
    execFileSync('npm', ['run', 'passphrase', '--', ...args], { cwd: CHECKOUT, env, input: `${passphrase}\n` });
  port = await freePort();
  address = `http://127.0.0.1:${port}`;
  server = await startServer();
});
test.afterAll(() => {
  server?.kill();
  rmSync(join(HOME, 'access.json'), { force: true });
});

/** What the start command does before it starts anything. */
const START = `import('./scripts/bootstrap/application.mjs').then((m) => m.startApplication('.', { url: '', home: process.env.ZERO_LATCH_HOME, wantedPort: 4399 }))`;

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}

async function signIn(page: Page, passphrase: string): Promise<void> {
  await page.goto(`${address}/storage`);
  await expect(page).toHaveURL(/\/sign-in$/);
  await page.getByLabel('Passphrase').fill(passphrase);
  await page.getByRole('button', { name: 'Sign in' }).click();
}

test('nobody comes in without the passphrase, and guessing is limited', async ({ page }) => {
  for (const path of ['/api/games', '/api/home', '/api/places', '/api/sent'])
    expect((await page.request.get(address + path)).status(), path).toBe(401);
  expect((await page.request.post(`${address}/api/games`, { data: { folder: '/' } })).status()).toBe(401);
  await signIn(page, 'not this one');
  await expect(page.getByRole('alert').filter({ hasText: 'This is not the passphrase' })).toBeVisible();
  const guess = () => page.request.post(`${address}/api/session`, { data: { passphrase: 'guess' } });
  const answers = [];
  for (let i = 0; i < 80; i++) answers.push((await guess()).status());
  expect(answers.slice(0, 6)).toEqual([403, 403, 403, 403, 413, 413]);
  // However often it tries, one address does not lock the others out: they sign in below.
  expect(new Set(answers.slice(4))).toEqual(new Set([413]));
  // The right one waits too: else a guess would be told from it.
  expect((await page.request.post(`${address}/api/session`, { data: { passphrase: FULL } })).status()).toBe(413);
});

test.describe('signed in', () => {
  // Another address than that of the guesses: a proxy on this machine says where a request comes from.
  test.use({ extraHTTPHeaders: { 'x-forwarded-for': '203.0.113.7' } });

  test('a game is sent in pieces, opened, and the session ends', async ({ page }) => {
    test.setTimeout(120_000);
    const file = join(demoAsMade('1.4.1'), 'core.hold');
    rmSync(join(GAMES, 'Sent Game'), { recursive: true, force: true });
    await signIn(page, FULL);
    await expect(page).toHaveURL(`${address}/`);
    await page.getByRole('button', { name: 'Send a game…' }).click();
    await page.getByTestId('game-files').setInputFiles([file]);
    await page.getByLabel('Name of the game').fill('Sent Game');
    await page.getByRole('button', { name: 'Send', exact: true }).click();
    await page.waitForURL(/\/games\/\d+\/open/, { timeout: 60_000 });
    await expect(page.getByTestId('archive core.hold')).toContainText('Locked', { timeout: 60_000 });
    expect(readFileSync(join(GAMES, 'Sent Game/core.hold')).equals(readFileSync(file))).toBe(true);

    // The cookie alone changes nothing: a page elsewhere could send it, but not the token.
    const forged = await page.request.post(`${address}/api/games`, { data: { folder: GAMES } });
    expect(forged.status()).toBe(403);
    await page.getByRole('button', { name: 'Sign out' }).click();
    await expect(page).toHaveURL(/\/sign-in$/);
    expect((await page.request.get(`${address}/api/games`)).status()).toBe(401);
  });

  test('an upload goes on where it was cut off, and leads nowhere else', async ({ page }) => {
    await signIn(page, FULL);
    await expect(page).toHaveURL(`${address}/`);
    const token = await page.locator('meta[name="zero-latch-token"]').getAttribute('content');
    const base = { 'tus-resumable': '1.0.0', 'x-zero-latch-token': token! };
    const named = (game: string, path: string) =>
      Object.entries({ game, path })
        .map(([key, value]) => `${key} ${Buffer.from(value).toString('base64')}`)
        .join(',');
    const begin = (game: string, path: string, size: number) =>
      page.request.post(`${address}/api/sent`, {
        headers: { ...base, 'upload-length': String(size), 'upload-metadata': named(game, path) },
      });
    for (const [game, path] of [
      ['../out', 'a.bin'],
      ['.hidden', 'a.bin'],
      ['a', '../../secret'],
      ['a', '/etc/a'],
      ['a/b', 'a.bin'],
      ['a', 'con'],
    ] as const)
      expect((await begin(game, path, 3)).status(), `${game} ${path}`).toBe(403);
    expect((await begin('Huge', 'a.bin', 2 ** 50)).status()).toBe(413);

    rmSync(join(GAMES, 'Pieces'), { recursive: true, force: true });
    // More than the ten megabytes that a body in front of a page may have.
    const bytes = Buffer.alloc(25_000_000, 'Zero Latch ');
    const begun = await begin('Pieces', 'data/large.bin', bytes.length);
    expect(begun.status()).toBe(201);
    const at = new URL(begun.headers()['location']!, address).href;
    const piece = (from: number, to: number) =>
      page.request.patch(at, {
        headers: { ...base, 'upload-offset': String(from), 'content-type': 'application/offset+octet-stream' },
        data: bytes.subarray(from, to),
      });
    expect((await piece(0, 12_000_000)).status()).toBe(204);
    // The server is killed: what has come stays, and the session too.
    server.kill('SIGKILL');
    server = await startServer();
    expect(existsSync(join(GAMES, 'Pieces'))).toBe(false);
    const known = await page.request.head(at, { headers: base });
    expect(known.headers()['upload-offset']).toBe('12000000');
    // A piece that does not follow is refused.
    expect((await piece(20_000_000, 25_000_000)).status()).toBe(409);
    expect((await piece(12_000_000, bytes.length)).status()).toBe(204);
    const file = join(GAMES, 'Pieces/data/large.bin');
    expect(statSync(file).size).toBe(bytes.length);
    expect(readFileSync(file).equals(bytes)).toBe(true);
    // Nothing is ever written over.
    expect((await begin('Pieces', 'data/large.bin', 3)).status()).toBe(409);
  });

  test('who may only look sees everything and changes nothing', async ({ page }) => {
    await signIn(page, LOOK);
    await expect(page.getByText('looking only')).toBeVisible();
    const token = await page.locator('meta[name="zero-latch-token"]').getAttribute('content');
    const answer = await page.request.post(`${address}/api/games`, {
      headers: { 'x-zero-latch-token': token! },
      data: { folder: GAMES },
    });
    expect(answer.status()).toBe(403);
    expect(await answer.text()).toContain('to look only');
  });
});
