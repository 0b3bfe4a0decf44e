import fc from 'fast-check';
import { compileFormula } from './compile-formula';
import type { Names } from './names';
import { scopeOf } from './value';

const names: Names = {
  rows: [],
  regions: new Map(),
  slots: new Set(),
  lets: new Map(),
  askedNames: new Set<string>(),
  hashes: new Map(),
  entry: false,
  block: false,
  folder: false,
};
const scope = scopeOf(undefined as never);
const evaluate = (text: string) => compileFormula(text, 1, names).evaluate(scope);

test('arithmetic agrees with exact integers at every size, and division rounds down', () => {
  const floor = (x: bigint, y: bigint) => (x % y !== 0n && x < 0n !== y < 0n ? x / y - 1n : x / y);
  fc.assert(
    fc.property(fc.bigInt(0n, 2n ** 64n - 1n), fc.bigInt(1n, 2n ** 64n - 1n), (x, y) => {
      expect(BigInt(evaluate(`${x} + ${y}`) as number)).toBe(x + y);
      expect(BigInt(evaluate(`${x} - ${y}`) as number)).toBe(x - y);
      expect(BigInt(evaluate(`${x} * ${y}`) as number)).toBe(x * y);
      expect(BigInt(evaluate(`${x} / ${y}`) as number)).toBe(floor(x, y));
      expect(BigInt(evaluate(`(${x} - ${y}) % ${y}`) as number)).toBe((((x - y) % y) + y) % y);
      expect(BigInt(evaluate(`${x} ^ ${y}`) as number)).toBe(x ^ y);
    }),
  );
});

test('division by zero is a fault, not infinity', () => {
  expect(() => evaluate('4 / 0')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ expected: 'a divisor other than 0' }) }),
  );
});

test('an unknown name says what is known', () => {
  const known: Names = { ...names, regions: new Map([['head', { index: 0, type: undefined }]]) };
  expect(() => compileFormula('heed', 7, known)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ line: 7, expected: 'one of head' }) }),
  );
});

test('a formula cannot make more bytes than the limit', () => {
  expect(() => evaluate('zeros(1000000000)')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'limit-reached' }) }),
  );
});

test('align rounds up to a multiple', () => {
  expect(evaluate('align(17, 16)')).toBe(32);
  expect(evaluate('align(32, 16)')).toBe(32);
});
