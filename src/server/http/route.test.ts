import { FaultError } from '../../core/faults';
import { route } from './route';

const params = (given: Record<string, string>) => ({ params: Promise.resolve(given) });
const address = 'http://localhost/api/x';
const post = (body?: string) => new Request(address, { method: 'POST', ...(body === undefined ? {} : { body }) });

const tray = { total: 0, bytes: 0, rows: [], parts: [], clips: [] };

test('a handler gets the address, the query and the body as the contract says, checked', async () => {
  const asked: unknown[] = [];
  const handler = route('POST games/{game}/tray', async ({ params: { game }, body }) => {
    asked.push(game, body);
    return tray;
  });
  const answer = await handler(post(JSON.stringify({ add: ['a.png'] })), params({ game: '7' }));
  expect(await answer.json()).toEqual(tray);
  expect(asked).toEqual([7, { add: ['a.png'], remove: [], clear: false }]);
  const listed = route('GET games/{game}/inside/{run}', async ({ query }) => {
    asked.push(query);
    throw new FaultError({ code: 'not-found', what: 'there is no such run' });
  });
  const missing = await listed(new Request(`${address}?offset=40`), params({ game: '7', run: '3' }));
  expect(asked.at(-1)).toEqual({ offset: 40 });
  expect(missing.status).toBe(404);
});

test.each([
  ['a part of the address that is no number', params({ game: 'seven' }), '{}', 'Game is not a number'],
  ['a field of another kind', params({ game: '7' }), '{"add":"a.png"}', 'add'],
  ['a field nobody knows', params({ game: '7' }), '{"give":[]}', 'give'],
  ['a body that is no JSON', params({ game: '7' }), '{', 'no JSON'],
])('%s is refused with its name', async (_, context, body, says) => {
  const work = jest.fn();
  const answer = await route('POST games/{game}/tray', work)(post(body), context);
  expect(answer.status).toBe(400);
  expect(((await answer.json()) as { fault: { sentence: string } }).fault.sentence).toContain(says);
  expect(work).not.toHaveBeenCalled();
});

test('an address without parts of its own has none', async () => {
  const handler = route('GET games', async ({ params: none }) => Object.keys(none) as never);
  const answer = await handler(new Request(address), { params: Promise.resolve(undefined) });
  expect(await answer.json()).toEqual([]);
});

test('a body that says nothing may be left out', async () => {
  const asked: unknown[] = [];
  const handler = route('POST games/{game}/drops', async ({ body }) => {
    asked.push(body);
    return { id: 3 };
  });
  expect(await (await handler(post(), params({ game: '7' }))).json()).toEqual({ id: 3 });
  expect(asked).toEqual([{ files: [] }]);
});
