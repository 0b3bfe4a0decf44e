import { askedOnce, readOnly } from './request-memo';

let asked = 0;
const ask = (of: string) => askedOnce(`row of ${of}`, () => Promise.resolve(`${of} ${(asked += 1)}`));

test('within one piece of reading work a question is asked once, in whatever order its answers come', async () => {
  asked = 0;
  expect(await readOnly(() => Promise.all([ask('a'), ask('a'), readOnly(() => ask('a')), ask('b')]))).toEqual([
    'a 1',
    'a 1',
    'a 1',
    'b 2',
  ]);
});

test('another piece of work asks again, and so does work that may change something', async () => {
  asked = 0;
  expect([await readOnly(() => ask('a')), await readOnly(() => ask('a'))]).toEqual(['a 1', 'a 2']);
  expect([await ask('a'), await ask('a')]).toEqual(['a 3', 'a 4']);
});

test('two pieces at the same time know nothing of each other', async () => {
  asked = 0;
  const both = await Promise.all([readOnly(() => ask('a')), readOnly(() => ask('a'))]);
  expect(both).toEqual(['a 1', 'a 2']);
});
