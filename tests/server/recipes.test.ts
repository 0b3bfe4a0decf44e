/** The workbench against a real database, real files and real threads. */
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { mkdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeHold } from '../../demo/archives/hold';
import { database, migrate } from '../../src/server/database';
import { env } from '../../src/server/env';
import { checkRecipe, hintsFor, knownRecipes, listRecipes, saveRecipe, tryRecipe } from '../../src/server/recipes';

const folder = join(env().home, 'games', 'bench-files');
const KEY = Buffer.alloc(32, 5);
const file = join(folder, 'letters.hold');

beforeAll(async () => {
  mkdirSync(folder, { recursive: true });
  await migrate();
  const entries = [
    { path: 'a/first.txt', bytes: Buffer.from('first letter') },
    { path: 'a/second.txt', bytes: Buffer.alloc(5000, 'second ') },
  ];
  writeFileSync(file, writeHold(entries, { key: KEY, release: 'bench', built: 1 }));
});
afterAll(() => database().close());

const hold = async () => (await listRecipes()).find(({ id }) => id === 'hold-archive')!;
const tried = (text: string, more: { quick?: boolean; keys?: Record<string, Uint8Array[]> } = {}) =>
  tryRecipe({ text, file, keys: more.keys ?? { content: [Buffer.alloc(32, 6), KEY] }, quick: more.quick ?? false });

test('a try reads the fields, finds the key that fits among several, and proves', async () => {
  const answer = await tried((await hold()).text);
  expect(answer).toMatchObject({ fault: null, entries: 2, complaints: [], unexplained: [] });
  expect(answer.paths).toEqual(['a/first.txt', 'a/second.txt']);
  expect(answer.proof).toMatchObject({
    identical: { same: true },
    changed: { equal: 2, tested: 2 },
    edits: { holds: true },
  });
  expect(answer.fields!.find(({ field }) => field === 'count')).toMatchObject({
    at: 8,
    length: 4,
    value: '2',
    formula: 'count(entries)',
  });
  expect((await tried((await hold()).text, { quick: true })).proof).toBeNull();
});

test('what is wrong is told with its line and its byte', async () => {
  const { text } = await hold();
  const line = (part: string) => text.split('\n').findIndex((one) => one.includes(part)) + 1;
  const misspelt = await checkRecipe(text.replace('as: u64, is: start(index)', 'as: u65, is: start(index)'));
  expect(misspelt.fault).toMatchObject({ line: line('field: indexAt') });
  expect((await tried(text.replace('must: HOLD', 'must: HELD'))).fault).toMatchObject({
    line: line('field: magic'),
    at: 0,
  });
  const disagreeing = await tried(text.replace('is: count(entries)', 'is: count(entries) + 1'));
  expect(disagreeing.proof!.formulas.first).toMatchObject({ line: line('field: count'), at: 8 });
  expect((await tried(text, { keys: { content: [Buffer.alloc(32, 6)] } })).fault).toMatchObject({ code: 'key-wrong' });
});

test('a try that nobody waits for is ended', async () => {
  const asked = new AbortController();
  const trying = tryRecipe({ text: (await hold()).text, file, keys: {}, quick: false }, asked.signal);
  asked.abort();
  await expect(trying).rejects.toMatchObject({ fault: { code: 'stopped' } });
});

test('a large text is compiled beside the pages, which go on being served', async () => {
  const { text } = await hold();
  const fields = Array.from({ length: 10_000 }, (_, i) => `    - { field: more${i}, as: u8 }`).join('\n');
  const large = text.replace('shapes:\n', `shapes:\n  large:\n${fields}\n`);
  const delay = monitorEventLoopDelay({ resolution: 5 });
  const start = performance.now();
  delay.enable();
  const { fault } = await checkRecipe(large);
  delay.disable();
  expect(fault).toBeNull();
  // Compiled on this thread, the longest delay would be nearly all of the time it took.
  expect(delay.max / 1e6).toBeLessThan((performance.now() - start) / 2);
});

test('an unknown file gives hints and its randomness', async () => {
  const { hints, randomness, size } = await hintsFor(file);
  expect(hints.map(({ what }) => what)).toContain('the file begins with “HOLD”');
  expect(randomness).toHaveLength(160);
  expect(size).toBe(statSync(file).size);
});

test('revisions count up, stand for the recipe that ships, and can be looked back at', async () => {
  const { text, revision } = await hold();
  const next = text.replace(/^revision: .*$/m, `revision: ${revision + 1}`).replace('title: Hold', 'title: Own hold');
  expect(await saveRecipe(next)).toEqual({ id: 'hold-archive', revision: revision + 1 });
  expect(await hold()).toMatchObject({ title: 'Own hold archive', revision: revision + 1, shipped: false });
  expect((await hold()).revisions.map((one) => [one.revision, one.savedAt === null])).toEqual([
    [revision + 1, false],
    [revision, true],
  ]);
  expect((await knownRecipes(0)).filter(({ id }) => id === 'hold-archive')).toHaveLength(1);
  await expect(saveRecipe(next)).rejects.toMatchObject({ fault: { code: 'conflict' } });
  await expect(saveRecipe('recipe: half')).rejects.toMatchObject({ fault: { code: 'recipe-invalid' } });
  await database().query('delete from recipes');
});
