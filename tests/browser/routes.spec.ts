/** Every route of the contracts, asked over HTTP: it answers as its contract says, or with a fault that is no defect. */
import { expect, test, type APIRequestContext, type APIResponse } from '@playwright/test';
import { z } from 'zod';
import { gameKey } from '../../demo/make-game';
import { ROUTES, type EntryPage, type RouteContract, type RunAnswer } from '../../src/server/shapes';
import { KEY, unlockedGame } from './support';

const CONTRACTS: readonly (readonly [method: string, path: string, contract: RouteContract])[] = Object.entries(
  ROUTES,
).map(([key, contract]) => [key.slice(0, key.indexOf(' ')), key.slice(key.indexOf(' ') + 1), contract]);

const filled = (path: string, params: Readonly<Record<string, string>>) =>
  `/api/${path.replaceAll(/\{(\w+)\}/g, (_, name: string) => params[name] ?? '1')}`;

async function ask(request: APIRequestContext, method: string, url: string, data?: unknown): Promise<APIResponse> {
  return request.fetch(url, { method, ...(data === undefined ? {} : { data }), timeout: 60_000 });
}

/** Never a defect, and a fault always has its code and its sentence. */
async function isNoDefect(answer: APIResponse, asked: string): Promise<void> {
  if (answer.ok()) return;
  const text = await answer.text();
  expect(answer.status(), `${asked}: ${text}`).toBeLessThan(500);
  expect(JSON.parse(text), asked).toMatchObject({ fault: { code: expect.any(String), sentence: expect.any(String) } });
}

test('what is not there, and a body of another shape, are faults that say so', async ({ request }) => {
  test.setTimeout(240_000);
  const nowhere = { game: '999999', archive: '999999', n: '999999', run: '999999', subject: 'entry-999999-0' };
  // Signing in and out, and freeing or measuring the home, ask for nothing that could be missing.
  for (const [method, path] of CONTRACTS.filter(([, path]) => path !== 'session' && !path.startsWith('home'))) {
    const asked = `${method} ${path}`;
    if (path.includes('{')) {
      const answer = await ask(request, method, filled(path, nowhere), method === 'GET' ? undefined : {});
      await isNoDefect(answer, asked);
    }
    if (method !== 'GET' && method !== 'DELETE') {
      const odd = await ask(request, method, filled(path, nowhere), [1, 'two', null]);
      expect(odd.ok(), asked).toBe(false);
      await isNoDefect(odd, asked);
    }
  }
});

test('what is read of a game is as its contract says', async ({ page }) => {
  test.setTimeout(240_000);
  const { request } = page;
  const { id } = await unlockedGame(page, 'routes');
  const runs = (await (await request.get(`/api/runs?game=${id}`)).json()) as RunAnswer[];
  const query = { path: 'menu/music/theme.ogg', under: '' };
  const { rows } = (await (await request.get(`/api/games/${id}/entries?kind=picture`)).json()) as EntryPage;
  const { archive, n, path } = rows[0]! as { archive: number; n: number; path: string };
  const params = {
    game: `${id}`,
    archive: `${archive}`,
    n: `${n}`,
    run: `${runs[0]!.id}`,
    subject: `entry-${archive}-${n}`,
  };
  let checked = 0;
  for (const [method, route, contract] of CONTRACTS) {
    if (method !== 'GET') continue;
    const search = new URLSearchParams({ ...query, path }).toString();
    const answer = await ask(request, 'GET', `${filled(route, params)}?${search}`);
    await isNoDefect(answer, route);
    if (!answer.ok() || !(contract.answer instanceof z.ZodType)) continue;
    const parsed = contract.answer.safeParse(await answer.json());
    expect(parsed.error?.message, route).toBeUndefined();
    checked++;
  }
  expect(checked).toBeGreaterThan(30);
});

test('what is written through a route is there afterwards', async ({ page }) => {
  test.setTimeout(300_000);
  const { request } = page;
  const { id } = await unlockedGame(page, 'routes-written');
  const game = `/api/games/${id}`;
  const path = 'words/en/captions.txt';
  const body = (method: string, url: string, data?: unknown) => ask(request, method, game + url, data ?? {});
  async function done(answer: APIResponse): Promise<unknown> {
    expect(answer.status(), `${answer.url()}: ${await answer.text()}`).toBe(200);
    return answer.json();
  }
  const file = (url: string, text: string) => request.post(game + url, { data: Buffer.from(text) });
  const ran = async (answer: APIResponse) => {
    const { id: run } = (await done(answer)) as RunAnswer;
    await expect
      .poll(async () => ((await (await request.get(`/api/runs/${run}`)).json()) as RunAnswer).state, {
        timeout: 60_000,
      })
      .toBe('done');
  };

  const profile = (await done(await request.get(`${game}/profile`))) as object;
  await done(await body('PUT', '/profile', profile));
  await done(await body('PUT', '/load-order', { byHand: [] }));
  await done(await body('PUT', '/test-rules', { looseFolder: 'loose' }));
  expect(await done(await request.get(`${game}/test-rules`))).toMatchObject({ looseFolder: 'loose' });

  await done(await body('POST', '/labels', { labels: [{ path, text: 'a caption' }] }));
  expect(await (await request.get(`${game}/labels`)).text()).toContain('a caption');
  await done(await body('POST', '/labels/table', { text: `path,label\n${path},another` }));

  await ran(await file('/names?name=mine.txt', `${path}\nwords/en/nothing.txt\n`));
  await ran(
    await body('POST', '/names/pattern', { pattern: 'words/en/{word}.txt', words: { word: 'captions\ncredits' } }),
  );
  expect(await done(await body('POST', '/names/pattern/count', { pattern: 'a{0..9}' }))).toBeDefined();
  await ran(await body('POST', '/names/harvest'));
  await ran(await request.post(`${game}/keys/file`, { data: gameKey('1.4.1', 'voices') }));
  await ran(await file('/keys/search/file?name=game.exe', `some bytes ${KEY} and more`));

  const place = `view=list&kind=picture`;
  const searches = (await done(await body('POST', '/searches', { name: 'Pictures', place }))) as { id: number }[];
  expect(await done(await ask(request, 'DELETE', `${game}/searches/${searches[0]!.id}`))).toEqual([]);

  expect(await done(await body('POST', '/tray/list', { text: `${path}\nnot/there.txt` }))).toMatchObject({
    unknown: 1,
  });
  expect(await done(await request.get(`${game}/tray`))).toMatchObject({ total: 1 });
  expect(await done(await body('POST', '/take-out/clashes', { to: null }))).toMatchObject({ count: 0 });

  const added = await file(
    `/changes/new?${new URLSearchParams({ path: 'words/en/new.txt', into: 'core.hold', name: 'new.txt' })}`,
    'new',
  );
  await done(added);
  await done(await body('POST', '/changes', { remove: path }));
  expect(await done(await request.get(`${game}/changes`))).toMatchObject(
    expect.arrayContaining([expect.objectContaining({ path: 'words/en/new.txt' }), expect.objectContaining({ path })]),
  );

  const steps = [{ do: 'build', how: 'patch' }];
  const routine = (await done(await body('POST', '/routines', { name: 'Build', steps }))) as { id: number };
  await ask(request, 'DELETE', `${game}/routines/${routine.id}`);
  await ran(await body('POST', '/records/tables'));
  await ran(await body('POST', '/scan'));
  await ran(await ask(request, 'POST', '/api/home/measure', {}));
});
