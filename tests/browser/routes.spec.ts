/** Every route of the contracts, asked over HTTP: it answers as its contract says, or with a fault that is no defect. */
import { expect, test, type APIRequestContext, type APIResponse } from '@playwright/test';
import { z } from 'zod';
import { ROUTES, type EntryPage, type RouteContract, type RunAnswer } from '../../src/server/shapes';
import { unlockedGame } from './support';

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
