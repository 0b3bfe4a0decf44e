/**
 * Attacks on a server on loopback, each with the answer it gets. docs/security.md has the same list, and the two are
 * compared. Attacks on the passphrase are in `access.spec.ts`.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type APIRequestContext, type APIResponse } from '@playwright/test';
import type { RunAnswer } from '../../src/server/shapes';
import { GAMES, HOME } from './support';

/** What an attempt is made with. */
interface Target {
  readonly request: APIRequestContext;
  /** A game with one ZIP, of which some paths lead out. */
  readonly game: number;
  readonly folder: string;
}

interface Attempt {
  readonly attempt: string;
  readonly answer: string;
  /** Makes it, and expects the answer. */
  readonly make: (target: Target) => Promise<void>;
}

const OUT = join(GAMES, 'attacked-out');

async function refused(answer: APIResponse, status: number, sentence: RegExp): Promise<void> {
  expect(answer.status()).toBe(status);
  const text = await answer.text();
  expect(text).toMatch(sentence);
  // No trace of the engine, and no path of the program.
  expect(text).not.toMatch(/\bat [\w.<>]+ \(|node_modules|src\/server/);
}

/** Refused as a request of a page elsewhere, whether it reads or writes. */
const refusedFrom =
  (headers: Readonly<Record<string, string>>): Attempt['make'] =>
  async ({ request }) => {
    await refused(await request.get('/api/games', { headers }), 403, /elsewhere|names/);
    await refused(await request.post('/api/games', { headers, data: { folder: GAMES } }), 403, /elsewhere|names/);
  };

const notOpened =
  (folder: () => string, why: RegExp): Attempt['make'] =>
  async ({ request }) =>
    refused(await request.post('/api/games', { data: { folder: folder() } }), 403, why);

/** Waits for a run to end. */
async function ended({ request }: Target, run: number): Promise<RunAnswer> {
  let answer: RunAnswer | undefined;
  await expect
    .poll(
      async () => {
        answer = (await (await request.get(`/api/runs/${run}`)).json()) as RunAnswer;
        return answer.state;
      },
      { timeout: 60_000 },
    )
    .toMatch(/done|failed|stopped/);
  return answer!;
}

async function takeOut(target: Target, to: string): Promise<RunAnswer> {
  const { request, game } = target;
  await request.post(`/api/games/${game}/tray`, { data: { addFolder: '' } });
  const answer = await request.post(`/api/games/${game}/take-out`, { data: { to } });
  expect(answer.ok(), await answer.text()).toBe(true);
  return ended(target, ((await answer.json()) as RunAnswer).id);
}

const OUTSIDE = /outside of what this server may touch/;
/** Doubles at each step: forty of them would take years to write out. */
const DOUBLING = `recipe: doubling
title: Doubling
revision: 1
numbers: little
match: { at: 0, bytes: X }
let:
${Array.from({ length: 40 }, (_, i) => `  k${i}: ${i === 0 ? 'length(file)' : `k${i - 1} + k${i - 1}`}`).join('\n')}
shapes:
  header: [{ field: sum, as: u32, is: k39 }]
regions:
  - { region: body, at: 0, holds: header }
presents: records
records: { tables: { items: header in body } }
`;

const ATTEMPTS: readonly Attempt[] = [
  {
    attempt: 'a page of another site reads or writes',
    answer: '403',
    make: refusedFrom({ 'sec-fetch-site': 'cross-site', origin: 'https://elsewhere.example' }),
  },
  {
    attempt: 'a page of another port of this machine reads or writes',
    answer: '403',
    make: refusedFrom({ 'sec-fetch-site': 'same-site', origin: 'http://127.0.0.1:8080' }),
  },
  {
    attempt: 'a page without an origin (a file, a sandboxed frame) writes',
    answer: '403',
    make: refusedFrom({ origin: 'null' }),
  },
  {
    attempt: 'a name of elsewhere that resolves to this machine',
    answer: '403',
    make: refusedFrom({ host: 'elsewhere.example' }),
  },
  {
    attempt: 'a page of another site shows one of ours in a frame, or runs a script in it',
    answer: 'refused by the headers of every page',
    make: async ({ request, game }) => {
      for (const path of ['/', `/games/${game}/find`, '/no-such-page']) {
        const headers = (await request.get(path)).headers();
        expect(headers['content-security-policy']).toMatch(/frame-ancestors 'none'/);
        expect(headers['content-security-policy']).toMatch(/script-src 'self' 'nonce-[^']{16,}'/);
        expect(headers).toMatchObject({
          'x-content-type-options': 'nosniff',
          'x-frame-options': 'DENY',
          'referrer-policy': 'no-referrer',
          'cross-origin-opener-policy': 'same-origin',
          'cross-origin-resource-policy': 'same-origin',
        });
      }
    },
  },
  {
    attempt: 'a folder outside of the roots is opened as a game',
    answer: '403',
    make: notOpened(() => '/etc', OUTSIDE),
  },
  {
    attempt: 'a link below a root leads out of it',
    answer: '403',
    make: async (target) => {
      const link = join(GAMES, 'attack-link');
      rmSync(link, { force: true });
      symlinkSync('/etc', link);
      await notOpened(() => link, OUTSIDE)(target);
      rmSync(link);
    },
  },
  {
    attempt: 'the home of the application (keys, database password) is opened as a game',
    answer: '403',
    make: notOpened(() => HOME, /its own files|outside/),
  },
  {
    attempt: 'entries are taken out into the home, where settings are read',
    answer: '403',
    make: async ({ request, game }) => {
      await request.post(`/api/games/${game}/tray`, { data: { addFolder: '' } });
      for (const to of [HOME, join(HOME, 'log')])
        await refused(
          await request.post(`/api/games/${game}/take-out`, { data: { to } }),
          403,
          /its own files|outside/,
        );
      expect(existsSync(join(HOME, 'config.json'))).toBe(false);
    },
  },
  {
    attempt: 'entries are taken out over the files of the game',
    answer: '403',
    make: async ({ request, game, folder }) =>
      refused(await request.post(`/api/games/${game}/take-out`, { data: { to: folder } }), 403, /belongs to the game/),
  },
  {
    attempt: 'paths in an archive lead out of the folder they are taken to',
    answer: 'they stay in it, under a name without the parts that lead out',
    make: async (target) => {
      rmSync(OUT, { recursive: true, force: true });
      mkdirSync(OUT, { recursive: true });
      await takeOut(target, OUT);
      const files = readdirSync(OUT, { recursive: true, withFileTypes: true }).filter((one) => one.isFile());
      expect(files.length).toBeGreaterThanOrEqual(2);
      expect(existsSync(join(GAMES, 'escaped.txt'))).toBe(false);
      expect(existsSync('/tmp/escaped.txt')).toBe(false);
    },
  },
  {
    attempt: 'a link lies in the target, in the place of a file or of its folder',
    answer: 'it is not followed, and the entry is reported',
    make: async (target) => {
      const victim = join(GAMES, 'attack-victim');
      for (const folder of [OUT, victim]) rmSync(folder, { recursive: true, force: true });
      for (const folder of [OUT, victim]) mkdirSync(folder, { recursive: true });
      writeFileSync(join(victim, 'plain.txt'), 'not yours');
      symlinkSync(join(victim, 'plain.txt'), join(OUT, 'plain.txt'));
      symlinkSync(victim, join(OUT, 'deep'));
      await takeOut(target, OUT);
      expect(readdirSync(victim)).toEqual(['plain.txt']);
      expect(readFileSync(join(victim, 'plain.txt'), 'utf8')).toBe('not yours');
    },
  },
  {
    attempt: 'a recipe of 2 KB that doubles at each line is checked or arrives in a profile',
    answer: 'answered within seconds, and no page waits for it',
    make: async ({ request, game }) => {
      const profile = (await (await request.get(`/api/games/${game}/profile`)).json()) as object;
      expect((await request.put(`/api/games/${game}/profile`, { data: profile })).status()).toBe(200);
      const recipes = [{ id: 'doubling', revision: 1, text: DOUBLING }];
      const slow = [
        request.post('/api/recipes/check', { data: { text: DOUBLING } }),
        request.put(`/api/games/${game}/profile`, { data: { ...profile, recipes } }),
      ];
      const start = performance.now();
      expect((await request.get('/api/games')).status()).toBe(200);
      const waited = performance.now() - start;
      const answers = await Promise.all(slow);
      for (const answer of answers) expect(answer.status(), await answer.text()).toBeLessThan(500);
      expect(performance.now() - start).toBeLessThan(30_000);
      expect(waited).toBeLessThan(5_000);
    },
  },
  {
    attempt: 'a body that is no JSON, of another shape, or without end',
    answer: '400 or 413, with what was expected',
    make: async ({ request, game }) => {
      const headers = { 'content-type': 'application/json' };
      const post = (data: string) => request.post(`/api/games/${game}/tray`, { headers, data: Buffer.from(data) });
      await refused(await post('{"add": ['), 400, /JSON/);
      await refused(await post('{"add": "all"}'), 400, /add/);
      expect([400, 413]).toContain((await post(`{"add": ["${'a'.repeat(80 << 20)}"]}`)).status());
    },
  },
  {
    attempt: 'numbers and names of an address that are none, or lead elsewhere',
    answer: '400 or 404',
    make: async ({ request, game }) => {
      for (const path of [
        'games/x',
        'games/-1',
        `games/${game}/entries/1/999999999`,
        `games/${game}/entries/1/..%2F..`,
      ])
        expect([400, 404], path).toContain((await request.get(`/api/${path}`)).status());
      expect([400, 404]).toContain((await request.get('/_next/static/..%2f..%2f..%2fpackage.json')).status());
    },
  },
];

test('each attempt of the list gets its answer', async ({ request }) => {
  test.setTimeout(240_000);
  const folder = join(GAMES, 'attacked');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  execFileSync('python3', [
    '-c',
    `import zipfile,sys
with zipfile.ZipFile(sys.argv[1], 'w') as z:
    for n in ['plain.txt', 'deep/second.txt', '../escaped.txt', '/tmp/escaped.txt', 'config.json']: z.writestr(n, b'words')`,
    join(folder, 'data.zip'),
  ]);
  const opened = await request.post('/api/games', { data: { folder } });
  const { game } = (await opened.json()) as { game: { id: number } };
  const target = { request, game: game.id, folder };
  await expect
    .poll(async () => (await (await request.get(`/api/games/${game.id}/entries`)).json()) as { total: number }, {
      timeout: 60_000,
    })
    .toMatchObject({ total: 5 });
  for (const { attempt, make } of ATTEMPTS) await test.step(attempt, () => make(target));
});

test('the list stands in docs/security.md', () => {
  const text = readFileSync(join(__dirname, '../../docs/security.md'), 'utf8');
  const section = text.slice(text.indexOf('## Attempts'), text.indexOf('## What is not promised'));
  const rows = [...section.matchAll(/^\| (.+?) +\| (.+?) +\|$/gm)].map(([, attempt, answer]) => [attempt, answer]);
  expect(rows.slice(1).filter(([attempt]) => !attempt!.startsWith('---'))).toEqual(
    ATTEMPTS.map(({ attempt, answer }) => [attempt, answer]),
  );
});
