import fc from 'fast-check';
import { inLoadOrder, type LoadOrderRule } from './index';

const paths = ['core-spring.hold', 'core.hold', 'dlc/core_10.hold', 'dlc/core_2.hold', 'patch.hold'];

test.each<[string, LoadOrderRule, string, string[]]>([
  ['names', { by: 'name' }, '', ['core.hold', 'core-spring.hold', 'dlc/core_10.hold', 'dlc/core_2.hold', 'patch.hold']],
  [
    'numbers',
    { by: 'number' },
    '',
    ['core.hold', 'core-spring.hold', 'patch.hold', 'dlc/core_2.hold', 'dlc/core_10.hold'],
  ],
  [
    'suffixes',
    { by: 'suffix', suffixes: ['patch', '-spring'] },
    '',
    ['core.hold', 'dlc/core_10.hold', 'dlc/core_2.hold', 'patch.hold', 'core-spring.hold'],
  ],
  [
    'a list file',
    { by: 'list', file: 'load.txt' },
    '# first to last\r\nPATCH.hold ; early\n\ndlc\\core_2.hold\ncore.hold\n',
    ['core-spring.hold', 'dlc/core_10.hold', 'patch.hold', 'dlc/core_2.hold', 'core.hold'],
  ],
])('archives load by %s', (_, rule, list, order) => {
  expect(inLoadOrder(paths, rule, { list })).toEqual(order);
});

test('an order by hand holds for what it names, and a new archive goes where the rule puts it', () => {
  const byHand = ['core-spring.hold', 'core.hold'];
  expect(inLoadOrder(['a.hold', 'core.hold', 'core-spring.hold', 'd.hold'], { by: 'name' }, { byHand })).toEqual([
    'a.hold',
    'core-spring.hold',
    'core.hold',
    'd.hold',
  ]);
});

test('every order is a permutation, and does not depend on the order the files were found in', () => {
  const rules = fc.constantFrom<LoadOrderRule>(
    { by: 'name' },
    { by: 'number' },
    { by: 'suffix', suffixes: ['b', '1'] },
  );
  fc.assert(
    fc.property(fc.uniqueArray(fc.stringMatching(/^[a-c0-2./-]{1,6}$/)), rules, (names, rule) => {
      const order = inLoadOrder(names, rule);
      expect([...order].sort()).toEqual([...names].sort());
      expect(inLoadOrder([...names].reverse(), rule)).toEqual(order);
    }),
  );
});
