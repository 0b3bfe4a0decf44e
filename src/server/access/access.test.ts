/** Every attempt to get in without a passphrase, or to do more than it opens, with its answer. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sealData } from 'iron-session';
import { isOpenToOthers, readAccessFile, roleFor, type AccessFile } from './access-file';
import { passage } from './gate';
import { COOKIE, sealedCookie, sessionOf } from './session';

const CHECKOUT = join(__dirname, '../../..');
const [FULL, LOOK] = ['correct horse battery', 'only looking around'];

let home: string;
let file: AccessFile;
const set = (passphrase: string, ...args: string[]) =>
  execFileSync(process.execPath, ['scripts/bootstrap.mjs', 'passphrase', ...args], {
    cwd: CHECKOUT,
    env: { ...process.env, ZERO_LATCH_HOME: home },
    input: `${passphrase}\n`,
    encoding: 'utf8',
    stdio: ['pipe', 'pipe', 'pipe'],
  });

beforeAll(() => {
  home = mkdtempSync(join(tmpdir(), 'zero-latch-access-'));
  expect(readAccessFile(home)).toBeUndefined();
  set(FULL);
  set(LOOK, '--look');
  file = readAccessFile(home)!;
});
afterAll(() => rmSync(home, { recursive: true }));

const cookieOf = async (role: 'full' | 'look', of = file) =>
  (await sealedCookie(of, role, false)).replace(`${COOKIE}=`, '').split(';')[0]!;

const ask = (more: Partial<Parameters<typeof passage>[1]> = {}, of: AccessFile | null = file) =>
  passage(of ?? undefined, { path: '/api/games', method: 'GET', cookie: undefined, token: null, ...more });

test('nobody has to sign in while only this machine reaches the server', () => {
  for (const settings of [
    {},
    { ZERO_LATCH_BIND: '127.0.0.1' },
    { ZERO_LATCH_BIND: '::1' },
    { ZERO_LATCH_HOSTS: 'localhost:4310, 127.0.0.2' },
  ])
    expect(isOpenToOthers(settings as unknown as NodeJS.ProcessEnv)).toBe(false);
  for (const settings of [
    { ZERO_LATCH_BIND: '0.0.0.0' },
    { ZERO_LATCH_BIND: '192.168.1.7' },
    { ZERO_LATCH_HOSTS: 'mods.example:443' },
    { ZERO_LATCH_HOSTS: 'localhost, 127.0.0.1.example' },
  ])
    expect(isOpenToOthers(settings as unknown as NodeJS.ProcessEnv)).toBe(true);
});

test('only hashes are kept, for the owner alone, and each passphrase opens its role', async () => {
  expect(statSync(join(home, 'access.json')).mode & 0o777).toBe(0o600);
  const text = readFileSync(join(home, 'access.json'), 'utf8');
  for (const passphrase of [FULL, LOOK]) expect(text).not.toContain(passphrase);
  expect(await roleFor(file, FULL)).toBe('full');
  expect(await roleFor(file, LOOK)).toBe('look');
  // Letters that are written in two ways are the same letters.
  set('Schlüssel für alle'.normalize('NFD'), '--look');
  expect(await roleFor(readAccessFile(home)!, 'Schlüssel für alle'.normalize('NFC'))).toBe('look');
  for (const wrong of ['', FULL.slice(1), FULL.toUpperCase(), `${FULL} `])
    expect(await roleFor(file, wrong)).toBeUndefined();
  expect(() => set('short')).toThrow(/at least 12 letters/);
});

test('without a passphrase nobody is let in, with a broken file neither', async () => {
  expect(await ask({}, null)).toMatchObject({ is: 'refused', status: 503 });
  expect(await ask({ path: '/sign-in' }, null)).toMatchObject({ is: 'refused', status: 503 });
  expect(await ask({}, { secret: file.secret, look: file.look })).toMatchObject({ is: 'refused', status: 503 });
});

test('whoever is not signed in sees the page that asks, and nothing else', async () => {
  for (const path of ['/sign-in', '/api/session', '/_next/static/chunks/a.js', '/icon.svg'])
    expect(await ask({ path })).toEqual({ is: 'open' });
  for (const path of [
    '/',
    '/storage',
    '/games/1/open',
    '/api/home',
    '/api/sessions',
    '/sign-in/../api/home',
    '/_next/data/x.json',
  ])
    expect(await ask({ path })).toMatchObject({ is: 'refused', status: 401 });
});

test('a cookie that is made up, changed, of another server, or too old opens nothing', async () => {
  const good = await cookieOf('full');
  const other = await cookieOf('full', { ...file, secret: 'a'.repeat(64) });
  const stranger = await sealData({ role: 'root', token: 'x' }, { password: file.secret });
  const old = await sealData({ role: 'full', token: 'a'.repeat(32) }, { password: file.secret, ttl: -120 });
  for (const cookie of ['', 'full', good.slice(0, -2), good.replace('*', '-'), other, stranger, old])
    expect(await ask({ cookie })).toMatchObject({ is: 'refused', status: 401 });
  expect(await ask({ cookie: good })).toMatchObject({ is: 'in', session: { role: 'full' } });
});

test('a request that changes something carries the token of its own session', async () => {
  const cookie = await cookieOf('full');
  const { token } = (await sessionOf(file, cookie))!;
  const another = (await sessionOf(file, await cookieOf('full')))!.token;
  for (const method of ['POST', 'PUT', 'PATCH', 'DELETE', 'PROPFIND'])
    for (const wrong of [null, '', another, token.slice(1)])
      expect(await ask({ method, cookie, token: wrong })).toMatchObject({ is: 'refused', status: 403 });
  expect(await ask({ method: 'POST', cookie, token })).toMatchObject({ is: 'in' });
});

test('who signed in to look changes nothing', async () => {
  const cookie = await cookieOf('look');
  const { token } = (await sessionOf(file, cookie))!;
  expect(await ask({ cookie })).toMatchObject({ is: 'in', session: { role: 'look' } });
  for (const method of ['POST', 'PUT', 'PATCH', 'DELETE'])
    expect(await ask({ method, cookie, token })).toMatchObject({ is: 'refused', status: 403, code: 'read-only' });
});

test('a new passphrase ends every session', async () => {
  const cookie = await cookieOf('full');
  set('another passphrase');
  expect(await ask({ cookie }, readAccessFile(home)!)).toMatchObject({ is: 'refused', status: 401 });
});

test('the cookie goes to no script, to no other page, and over TLS only where there is TLS', async () => {
  expect(await sealedCookie(file, 'full', true)).toMatch(/; HttpOnly; SameSite=Strict; Secure$/);
  expect(await sealedCookie(file, 'full', false)).not.toContain('Secure');
});
