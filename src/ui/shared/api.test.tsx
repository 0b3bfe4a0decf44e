import { Refusal, serve } from '../testing/show';
import { ApiFault, bytesAt, call, entryIn } from './api';

const refusal = (work: Promise<unknown>) =>
  work.then(
    () => undefined,
    (error: unknown) => error,
  );

test('the address, the query and the body are those of the contract', async () => {
  const asked = serve({
    'GET games/7/folders?under=a%26b': () => [],
    'POST games/7/tray': () => ({ total: 0, bytes: 0, rows: [], parts: [], clips: [] }),
  });
  // What is undefined is left out.
  expect(await call('GET games/{game}/folders', { game: 7, query: { under: 'a&b', archive: undefined } })).toEqual([]);
  await call('POST games/{game}/tray', { game: 7, body: { add: ['a.png'] } });
  expect(asked.map(({ method, path, body }) => ({ method, path, body }))).toEqual([
    { method: 'GET', path: 'games/7/folders?under=a%26b', body: undefined },
    { method: 'POST', path: 'games/7/tray', body: { add: ['a.png'] } },
  ]);
});

test('a file goes as it is', async () => {
  const asked = serve({ 'POST games/7/mods/share/picture': () => ({ picture: 'abc' }) });
  const file = new Blob(['bytes']);
  expect(await call('POST games/{game}/mods/share/picture', { game: 7, send: file })).toEqual({ picture: 'abc' });
  expect(asked[0]!.body).toBe(file);
});

test('an answer that is not what the contract says is refused, and a field nobody knows is left out', async () => {
  serve({ 'GET runs/3/log': () => [{ at: 'now', text: 'a line', more: true }] });
  expect(await call('GET runs/{run}/log', { run: 3 })).toEqual([{ at: 'now', text: 'a line' }]);
  serve({ 'GET runs/3/log': () => [{ at: 'now' }] });
  expect(await refusal(call('GET runs/{run}/log', { run: 3 }))).toMatchObject({ code: 'unexpected-answer' });
});

test('a refusal has the words of the server; silence has its own', async () => {
  serve({ 'GET home': () => new Refusal(409, 'conflict', 'It is being measured.') });
  const refused = await refusal(call('GET home'));
  expect(refused).toBeInstanceOf(ApiFault);
  expect(refused).toMatchObject({ status: 409, code: 'conflict', message: 'It is being measured.' });
  globalThis.fetch = jest.fn(() => Promise.reject(new TypeError('failed'))) as never;
  expect(await refusal(call('GET home'))).toMatchObject({ code: 'offline' });
});

test('bytes behind the end of a file are none', async () => {
  const ranges: unknown[] = [];
  globalThis.fetch = jest.fn((_: string, { headers }: RequestInit) => {
    ranges.push(headers);
    return Promise.resolve({ ok: false, status: 416, text: () => Promise.resolve('') });
  }) as never;
  const { signal } = new AbortController();
  expect((await bytesAt('/api/x', { from: 0, to: 16, signal })).bytes).toHaveLength(0);
  expect(ranges).toEqual([{ range: 'bytes=0-15' }]);
});

test('an entry is known by the address of its bytes', () => {
  expect(entryIn('/api/games/7/subjects/entry-3-17')).toEqual({ game: 7, archive: 3, n: 17 });
  expect(entryIn('/api/games/7/subjects/change-3')).toBeUndefined();
});
