/** Recipe texts of absurd size or depth: told with a line in little time, never by the engine. */
import { FaultError } from '../../src/core/faults';
import { compileRecipe } from '../../src/core/recipe';

/** Of the processor, not of the clock: other tests run at the same time. */
const MOST_MS = 4_000;

function cpuMs(start: NodeJS.CpuUsage): number {
  const { user, system } = process.cpuUsage(start);
  return (user + system) / 1_000;
}

const recipe = ({ head = '', value = '0', shapes = '' }) => `recipe: bounds
title: Bounds
revision: 1
numbers: little
match: { at: 0, bytes: X }
${head}
shapes:
  header:
    - { field: magic, as: ascii(1), must: X }
    - { field: sum, as: u32, is: '${value}' }
    - { field: items, as: 'item[1]' }
  item:
    - { field: one, as: u8 }
${shapes}
regions:
  - { region: body, at: 0, holds: header }
presents: records
records: { tables: { items: item in body.items } }
`;

const times = (count: number, make: (index: number) => string) => Array.from({ length: count }, (_, i) => make(i));
const lets = (count: number, make: (index: number) => string) =>
  `let:\n${times(count, (i) => `  k${i}: ${make(i)}`).join('\n')}`;

const TOO_MUCH: Readonly<Record<string, string>> = {
  'keys of a map': recipe({ head: lets(25_000, String) }),
  'lists in lists': recipe({ head: `let: ${'['.repeat(100_000)}` }),
  'closed lists in lists': recipe({ head: `let: ${'['.repeat(5_000)}${']'.repeat(5_000)}` }),
  'maps in maps': recipe({ head: `let: ${'{ a: '.repeat(5_000)}1${'}'.repeat(5_000)}` }),
  indents: recipe({ head: times(1_000, (i) => `${' '.repeat(i)}k:`).join('\n') }),
  documents: recipe({ head: '---\n'.repeat(100_000) }),
  aliases: recipe({ head: 'let: { a: &a 1, b: *a }' }),
  'brackets of a formula': recipe({ value: `${'('.repeat(50_000)}1${')'.repeat(50_000)}` }),
  'words of a formula': recipe({ value: `${'not '.repeat(50_000)}1` }),
  'signs of a formula': recipe({ value: `${'-'.repeat(50_000)}1` }),
  'terms of a formula': recipe({ value: `${'1 + '.repeat(50_000)}1` }),
  'calls in calls': recipe({ value: `${'if(1, '.repeat(20_000)}1${', 2)'.repeat(20_000)}` }),
  'fields of fields': recipe({ value: `body${'.a'.repeat(50_000)}` }),
  'items of items': recipe({ value: `body${'[0]'.repeat(50_000)}` }),
  'names in let, one on another': recipe({
    head: lets(5_000, (i) => (i === 0 ? '1' : `k${i - 1} + 1`)),
    value: 'k4999',
  }),
  'a name in let that leads back': recipe({ head: 'let: { a: b + 1, b: a + 1 }', value: 'a' }),
  'a shape that always holds itself': recipe({
    shapes: '  a: [{ field: of, as: b }]\n  b: [{ field: of, as: a }]',
  }),
  'a key twice': recipe({ head: 'let: { a: 1, a: 2 }' }),
};

test.each(Object.keys(TOO_MUCH))('too much: %s', (name) => {
  const start = process.cpuUsage();
  let fault: unknown;
  try {
    compileRecipe(TOO_MUCH[name]!);
  } catch (error) {
    fault = error instanceof FaultError ? error.fault : error;
  }
  expect(fault).toMatchObject({ code: 'recipe-invalid', line: expect.any(Number) });
  expect(JSON.stringify(fault)).not.toContain('call stack');
  expect(JSON.stringify(fault).length).toBeLessThan(1_000);
  expect(cpuMs(start)).toBeLessThan(MOST_MS);
});

const LARGE: Readonly<Record<string, string>> = {
  'names in let that use each other twice': recipe({
    head: lets(30, (i) => (i === 0 ? '1' : `(k${i - 1} + k${i - 1}) % 7`)),
    value: 'k29',
  }),
  'names in let beside one another': recipe({ head: lets(10_000, String), value: 'k9999' }),
  'shapes of a recipe': recipe({ shapes: times(8_000, (i) => `  s${i}: [{ field: a, as: u32 }]`).join('\n') }),
  'shapes that hold the next one twice': recipe({
    shapes: times(60, (i) =>
      i === 59
        ? `  s59: [{ field: a, as: u8 }]`
        : `  s${i}: [{ field: a, as: s${i + 1} }, { field: b, as: s${i + 1} }]`,
    ).join('\n'),
  }),
  'a shape that may hold itself behind another': recipe({
    shapes: [
      '  group: [{ field: name, as: u8 }, { field: parts, as: "part[name]" }]',
      '  part: [{ field: more, as: u8 }, { field: of, as: wrap, when: more == 1 }]',
      '  wrap: [{ field: size, as: u8 }, { field: of, as: group }]',
    ].join('\n'),
  }),
  'fields of a shape': recipe({
    shapes: `  wide:\n${times(10_000, (i) => `    - { field: f${i}, as: u8 }`).join('\n')}`,
  }),
};

test.each(Object.keys(LARGE))('large, but right: %s', (name) => {
  const start = process.cpuUsage();
  expect(compileRecipe(LARGE[name]!).id).toBe('bounds');
  expect(cpuMs(start)).toBeLessThan(MOST_MS);
});
