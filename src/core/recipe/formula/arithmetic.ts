/** Whole-number arithmetic, exact at any size; division rounds down. */
import { FormatError, LimitError } from '../../faults';
import { isNumeric, sameValue, truthy, type Value } from './value';
import { showValue } from './show-value';
import type { BinaryOperator } from '../language/expression';

/** @throws FormatError `must-differs` when the operands are of the wrong kind */
export function applyOperator(operator: BinaryOperator, a: Value, b: Value): Value {
  switch (operator) {
    case 'or':
      return truthy(a) || truthy(b);
    case 'and':
      return truthy(a) && truthy(b);
    case '==':
      return sameValue(a, b);
    case '!=':
      return !sameValue(a, b);
    case '<':
    case '<=':
    case '>':
    case '>=':
      return compared(operator, a, b);
    case '+':
      if (typeof a === 'string' && typeof b === 'string') return a + b;
      if (a instanceof Uint8Array && b instanceof Uint8Array) return new Uint8Array(Buffer.concat([a, b]));
      return arithmetic(operator, a, b);
    default:
      return arithmetic(operator, a, b);
  }
}

export function wrongType(name: string, expected: string, found: Value): FormatError {
  return new FormatError({
    code: 'must-differs',
    what: `${name} cannot work on this`,
    expected,
    found: showValue(found),
  });
}

function compared(operator: '<' | '<=' | '>' | '>=', a: Value, b: Value): boolean {
  const order = compareValues(a, b);
  switch (operator) {
    case '<':
      return order < 0;
    case '<=':
      return order <= 0;
    case '>':
      return order > 0;
    case '>=':
      return order >= 0;
    default:
      return operator satisfies never;
  }
}

/**
 * Order of two numbers, two texts (by code unit) or two byte strings.
 *
 * @throws FormatError for anything else
 */
export function compareValues(a: Value, b: Value): number {
  const x = typeof a === 'boolean' ? Number(a) : a;
  const y = typeof b === 'boolean' ? Number(b) : b;
  if (isNumeric(x) && isNumeric(y)) return x < y ? -1 : x > y ? 1 : 0;
  if (typeof x === 'string' && typeof y === 'string') return x < y ? -1 : x > y ? 1 : 0;
  if (x instanceof Uint8Array && y instanceof Uint8Array) return Buffer.compare(x, y);
  throw wrongType('a comparison', 'two numbers, two texts or two byte strings', isNumeric(x) ? y : x);
}

/** Numbers that double at each step would fill the memory in a few dozen of them. */
const MOST_BITS = 4096;
const LARGEST = 1n << BigInt(MOST_BITS);

type Arithmetic = Exclude<BinaryOperator, 'or' | 'and' | '==' | '!=' | '<' | '<=' | '>' | '>='>;

export function arithmetic(operator: Arithmetic, left: Value, right: Value): number | bigint {
  const a = typeof left === 'boolean' ? Number(left) : left;
  const b = typeof right === 'boolean' ? Number(right) : right;
  if (!isNumeric(a) || !isNumeric(b)) throw wrongType(operator, 'two numbers', isNumeric(a) ? b : a);
  if ((operator === '/' || operator === '%') && Number(b) === 0) throw wrongType(operator, 'a divisor other than 0', b);
  if (typeof a === 'number' && typeof b === 'number') {
    const quick = quickArithmetic(operator, a, b);
    if (quick !== undefined) return quick;
  }
  const x = typeof a === 'bigint' ? a : BigInt(Math.trunc(a));
  const y = typeof b === 'bigint' ? b : BigInt(Math.trunc(b));
  const exact = wideArithmetic(operator, x, y);
  if (exact >= LARGEST || exact <= -LARGEST)
    throw new LimitError({
      code: 'limit-reached',
      what: `${operator} gives too large a number`,
      limit: `bits of a number, ${MOST_BITS}`,
    });
  const small = Number(exact);
  return Number.isSafeInteger(small) ? small : exact;
}

/** The answer in doubles where it is exact, else undefined. */
function quickArithmetic(operator: Arithmetic, a: number, b: number): number | undefined {
  let result: number;
  switch (operator) {
    case '+':
      result = a + b;
      break;
    case '-':
      result = a - b;
      break;
    case '*':
      result = a * b;
      break;
    case '/':
      result = Math.floor(a / b);
      break;
    case '%':
      result = a - Math.floor(a / b) * b;
      break;
    case '&':
      return a >= 0 && b >= 0 && a <= 0x7fffffff && b <= 0x7fffffff ? a & b : undefined;
    case '|':
      return a >= 0 && b >= 0 && a <= 0x7fffffff && b <= 0x7fffffff ? a | b : undefined;
    default:
      return undefined;
  }
  return Number.isSafeInteger(result) && Math.abs(a) < 2 ** 52 && Math.abs(b) < 2 ** 52 ? result : undefined;
}

function wideArithmetic(operator: Arithmetic, x: bigint, y: bigint): bigint {
  switch (operator) {
    case '+':
      return x + y;
    case '-':
      return x - y;
    case '*':
      return x * y;
    case '/': {
      const quotient = x / y;
      return x % y !== 0n && x < 0n !== y < 0n ? quotient - 1n : quotient;
    }
    case '%':
      return ((x % y) + y) % y;
    case '&':
      return x & y;
    case '|':
      return x | y;
    case '^':
      return x ^ y;
    case '<<':
    case '>>':
      if (y < 0n || y > 64n) throw wrongType(operator, 'a shift by 0 to 64', y);
      return operator === '<<' ? x << y : x >> y;
    default:
      return operator satisfies never;
  }
}
