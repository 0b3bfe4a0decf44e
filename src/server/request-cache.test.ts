import { oncePerRequest, withRequestCache } from './request-cache';

let queries = 0;
const query = (of: string) => oncePerRequest(`row of ${of}`, () => Promise.resolve(`${of} ${(queries += 1)}`));

beforeEach(() => {
  queries = 0;
});

test('within one request a query runs once, nested or not', async () => {
  const results = withRequestCache(() =>
    Promise.all([query('a'), query('a'), withRequestCache(() => query('a')), query('b')]),
  );
  expect(await results).toEqual(['a 1', 'a 1', 'a 1', 'b 2']);
});

test('another request runs it again, and so does work without a cache', async () => {
  expect([await withRequestCache(() => query('a')), await withRequestCache(() => query('a'))]).toEqual(['a 1', 'a 2']);
  expect([await query('a'), await query('a')]).toEqual(['a 3', 'a 4']);
});

test('two requests at the same time share nothing', async () => {
  const both = [withRequestCache(() => query('a')), withRequestCache(() => query('a'))];
  expect(await Promise.all(both)).toEqual(['a 1', 'a 2']);
});
