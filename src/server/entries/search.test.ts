import { searchCondition } from './search';

test('words, quotes and minus become conditions with values of their own', () => {
  expect(searchCondition('cabin "red door" -snow')).toEqual({
    sql: 'e.path collate "default" ilike :s0 and e.path collate "default" ilike :s1 and not (e.path collate "default" ilike :s2)',
    values: { s0: '%cabin%', s1: '%red door%', s2: '%snow%' },
  });
});

test('nothing typed ever stands in the SQL', () => {
  const { sql, values } = searchCondition(`'; drop table entries; -- kind:picture a'b %_\\`);
  expect(sql).toMatch(/^[a-z0-9_.:=()" ]+$/);
  expect(Object.values(values)).toContain('%\\%\\_\\\\%');
});

test.each([
  ['*.png', '%%.png'],
  ['frame_0?', '%frame\\_0_'],
  ['cabins/*/x', 'cabins/%/x'],
])('the wildcard %s becomes %s', (text, pattern) => {
  expect(searchCondition(text).values).toEqual({ s0: pattern });
});

test.each([
  ['size:>64k', 'e.size > :s0', 65_536],
  ['size:<=2mb', 'e.size <= :s0', 2 << 20],
  ['size:10', 'e.size >= :s0', 10],
])('%s compares sizes', (text, sql, value) => {
  expect(searchCondition(text)).toEqual({ sql, values: { s0: value } });
});

test.each([
  ['kind:sounds', 'sound'],
  ['kind:image', 'picture'],
  ['kind:pic', 'picture'],
])('%s finds the kind %s', (text, kind) => {
  expect(searchCondition(text)).toEqual({ sql: 'e.kind = :s0', values: { s0: kind } });
});

test.each(['kind:sausage', 'size:huge', 'size:>5xb'])('%s is refused, saying what there is', (text) => {
  expect(() => searchCondition(text)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'invalid-request' }) }),
  );
});

test('a word that is still being typed does not fail', () => {
  for (const text of ['kind:', 'size:', 'size:>', '"', '-', '']) expect(() => searchCondition(text)).not.toThrow();
});
