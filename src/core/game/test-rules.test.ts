import fc from 'fast-check';
import { brokenRules, sayRule, testRule, type RuledEntry, type TestRule } from './test-rules';

const picture = { width: 256, height: 64, mips: 9, packing: 'bc1' };

function found(rule: unknown, entry: Partial<RuledEntry>): string | undefined {
  const parsed: TestRule = testRule.parse(rule);
  return brokenRules([parsed], [{ path: 'ui/a.tex', size: 10, ...entry }])[0]?.found;
}

test.each<[unknown, Partial<RuledEntry>, string | undefined]>([
  [{ rule: 'packing', one: ['BC1', 'bc3'] }, { picture }, undefined],
  [{ rule: 'packing', one: ['bc3'] }, { picture }, 'BC1'],
  [{ rule: 'powers-of-two' }, { picture }, undefined],
  [{ rule: 'powers-of-two' }, { picture: { ...picture, width: 250 } }, '250 × 64'],
  [{ rule: 'side', most: 256 }, { picture }, undefined],
  [{ rule: 'side', most: 128 }, { picture }, '256 × 64'],
  [{ rule: 'mips', are: 'all' }, { picture }, undefined],
  [{ rule: 'mips', are: 'all' }, { picture: { ...picture, mips: 1 } }, '1 of 9'],
  [{ rule: 'mips', are: 'none' }, { picture }, '9 of 9'],
  [{ rule: 'rate', one: [22050, 44100] }, { sound: { rate: 48000, channels: 1 } }, '48,000 a second'],
  [{ rule: 'channels', most: 1 }, { sound: { rate: 48000, channels: 2 } }, '2'],
  [{ rule: 'bytes', most: 10 }, {}, undefined],
  [{ rule: 'bytes', most: 9 }, {}, '10 bytes'],
  [{ rule: 'path-length', most: 7 }, {}, '8 characters'],
  [{ rule: 'name', most: 8 }, { path: 'ui/türe.tex' }, 'türe.tex'],
  [{ rule: 'name', most: 3 }, {}, 'a.tex'],
  [{ rule: 'powers-of-two' }, { sound: { rate: 1, channels: 1 } }, undefined],
])('%j', (rule, entry, expected) => {
  expect(found(rule, entry)).toBe(expected);
});

test('a rule is for the paths it names, in any letter case, and no others', () => {
  const rules = [testRule.parse({ rule: 'bytes', paths: 'UI/*.tex', most: 1 })];
  const of = (path: string) => brokenRules(rules, [{ path, size: 2 }]).length;
  expect([of('ui/deep/a.tex'), of('ui/a.text'), of('gui/a.tex'), of('ui/aXtex')]).toEqual([1, 0, 0, 0]);
  fc.assert(
    fc.property(fc.string({ minLength: 1 }), (text) => {
      const literal = text.replaceAll(/[*?]/g, '.');
      const rule = testRule.parse({ rule: 'bytes', paths: literal, most: 1 });
      return brokenRules([rule], [{ path: literal, size: 2 }]).length === 1;
    }),
  );
});

test('each rule is a sentence', () => {
  for (const rule of [
    { rule: 'packing', one: ['bc1'] },
    { rule: 'powers-of-two' },
    { rule: 'side', most: 4096 },
    { rule: 'mips', are: 'none' },
    { rule: 'rate', one: [22050] },
    { rule: 'channels', most: 1 },
    { rule: 'bytes', most: 1 },
    { rule: 'path-length', most: 1 },
    { rule: 'name', most: 1 },
  ])
    expect(sayRule(testRule.parse(rule))).toMatch(/^[A-Z].*\.$/);
});
