/** Turns checked expressions into closures; every name is resolved once, here, or is an error with its line. */
import { createHasher, hasherNames, hashOf } from '../codecs';
import { FormatError } from '../faults';
import { parseExpression, type BinaryOperator, type Expression } from './expression';
import type { FieldType, Formula, Shape, Uses } from './model';
import {
  isNumeric,
  sameValue,
  showValue,
  wholeNumber,
  type Fields,
  type ListValue,
  type Scope,
  type Value,
} from './value';

/** The names that stand around a formula. */
export interface Names {
  /** The shape whose fields can be named bare. */
  readonly shape?: Shape | undefined;
  /** Only fields before this index have been read already; leave out where all are known. */
  readonly before?: number;
  /** The row that `entries.each` binds. */
  readonly row?: { readonly name: string; readonly shape: Shape } | undefined;
  readonly regions: ReadonlyMap<string, { readonly index: number; readonly type: FieldType | undefined }>;
  /** True where `entry` has a meaning. */
  readonly entry: boolean;
}

interface Piece {
  readonly type: FieldType;
  evaluate(scope: Scope): Value;
}

const NUMBER: FieldType = { kind: 'value', of: 'number' };
const TEXT: FieldType = { kind: 'value', of: 'text' };
const BYTES: FieldType = { kind: 'value', of: 'bytes' };

const ENTRY_PROPERTIES = ['path', 'at', 'stored', 'size', 'method'] as const;
type EntryProperty = (typeof ENTRY_PROPERTIES)[number];

/** The most bytes a formula may make, such as `zeros(n)`. */
const MAX_MADE_BYTES = 4096;

/**
 * Compiles a formula.
 *
 * @throws FormatError `recipe-invalid` with the line, what is wrong, and what would be known there
 */
export function compileFormula(text: string, line: number, names: Names): Formula {
  const uses: Uses = {
    layout: false,
    elsewhere: false,
    siblings: new Set(),
    content: [],
    regionBytes: new Set(),
    regions: new Set(),
  };
  try {
    const expression = parseExpression(text);
    const piece = compile(expression, names, uses);
    const single = singleProperty(expression, names);
    return { text, line, uses, evaluate: piece.evaluate, ...single };
  } catch (error) {
    throw error instanceof FormatError ? error.with({ line }) : error;
  }
}

function singleProperty(expression: Expression, names: Names): { entryProperty?: string; rowField?: number } {
  if (expression.kind !== 'member' || expression.of.kind !== 'name') return {};
  if (expression.of.name === 'entry') return { entryProperty: expression.name };
  if (expression.of.name !== names.row?.name) return {};
  const index = names.row.shape.fields.findIndex((field) => field.name === expression.name);
  return index < 0 ? {} : { rowField: index };
}

function invalid(what: string, expected?: string, hint?: string): FormatError {
  return new FormatError({
    code: 'recipe-invalid',
    what,
    ...(expected === undefined ? {} : { expected }),
    ...(hint === undefined ? {} : { hint }),
  });
}

function compile(expression: Expression, names: Names, uses: Uses): Piece {
  switch (expression.kind) {
    case 'number': {
      const { value } = expression;
      return { type: NUMBER, evaluate: () => value };
    }
    case 'text': {
      const { value } = expression;
      return { type: TEXT, evaluate: () => value };
    }
    case 'name':
      return compileName(expression.name, names, uses);
    case 'member':
      return compileMember(expression, names, uses);
    case 'index':
      return compileIndex(expression, names, uses);
    case 'call':
      return compileCall(expression, names, uses);
    case 'unary': {
      const of = compile(expression.of, names, uses);
      if (expression.operator === 'not') return { type: NUMBER, evaluate: (scope) => !truthy(of.evaluate(scope)) };
      return { type: NUMBER, evaluate: (scope) => arithmetic('-', 0, of.evaluate(scope)) };
    }
    case 'binary':
      return compileBinary(expression, names, uses);
    case 'range':
      throw invalid('a range has no value', 'a range only in `must`');
    default:
      return expression satisfies never;
  }
}

function compileName(name: string, names: Names, uses: Uses): Piece {
  if (name === 'true' || name === 'false') return { type: NUMBER, evaluate: () => name === 'true' };
  const index = names.shape?.fields.findIndex((field) => field.name === name) ?? -1;
  if (names.shape !== undefined && index >= 0) {
    if (names.before !== undefined && index >= names.before) {
      throw invalid(`field ${name} is not read yet at this place`, 'a field that stands before this one');
    }
    uses.siblings.add(index);
    return {
      get type() {
        return names.shape!.fields[index]!.kind.type;
      },
      evaluate: (scope) => scope.fields!.get(index),
    };
  }
  if (names.row?.name === name) {
    return { type: { kind: 'shape', shape: names.row.shape }, evaluate: (scope) => scope.row };
  }
  const region = names.regions.get(name);
  if (region !== undefined) {
    if (region.type === undefined) throw invalid(`region ${name} has no fields`);
    uses.elsewhere = true;
    uses.regions.add(region.index);
    const { index: regionIndex } = region;
    return { type: region.type, evaluate: (scope) => scope.file.region(regionIndex) };
  }
  const known = [
    ...(names.shape?.fields.map((field) => field.name) ?? []),
    ...(names.row === undefined ? [] : [names.row.name]),
    ...names.regions.keys(),
    ...(names.entry ? ['entry'] : []),
  ];
  throw invalid(`nothing here is called ${name}`, known.length > 0 ? `one of ${known.join(', ')}` : undefined);
}

function compileMember(expression: Expression & { kind: 'member' }, names: Names, uses: Uses): Piece {
  if (expression.of.kind === 'name' && expression.of.name === 'entry')
    return compileEntry(expression.name, names, uses);
  const of = compile(expression.of, names, uses);
  if (of.type.kind !== 'shape') throw invalid(`.${expression.name} needs a shape before the dot`);
  const { shape } = of.type;
  const index = shape.fields.findIndex((field) => field.name === expression.name);
  if (index < 0) {
    throw invalid(
      `shape ${shape.name} has no field ${expression.name}`,
      `one of ${shape.fields.map((field) => field.name).join(', ')}`,
    );
  }
  return {
    get type() {
      return shape.fields[index]!.kind.type;
    },
    evaluate: (scope) => (of.evaluate(scope) as Fields | undefined)?.get(index),
  };
}

function compileEntry(property: string, names: Names, uses: Uses): Piece {
  if (!names.entry) throw invalid('there is no entry here', 'entry only in the shape of the rows and in entries');
  if (!(ENTRY_PROPERTIES as readonly string[]).includes(property)) {
    const hint =
      property === 'data' || property === 'packed' ? `Bytes can only be hashed: crc32(entry.${property}).` : undefined;
    throw invalid(`an entry has no ${property}`, `one of ${ENTRY_PROPERTIES.join(', ')}, data, packed`, hint);
  }
  if (property === 'at') uses.layout = true;
  const key = property as EntryProperty;
  return { type: key === 'path' ? TEXT : NUMBER, evaluate: (scope) => scope.entry![key] };
}

function compileIndex(expression: Expression & { kind: 'index' }, names: Names, uses: Uses): Piece {
  const of = compile(expression.of, names, uses);
  if (of.type.kind !== 'list' || expression.at === undefined)
    throw invalid('only a repeated field has items', 'name[number]');
  const at = compile(expression.at, names, uses);
  return {
    type: of.type.of,
    evaluate: (scope) => {
      const list = of.evaluate(scope) as ListValue;
      const index = wholeNumber(at.evaluate(scope), 'the index');
      if (index >= list.length) {
        throw new FormatError({
          code: 'must-differs',
          what: 'an index is past the end of its list',
          expected: `below ${list.length}`,
          found: String(index),
        });
      }
      return list.at(index);
    },
  };
}

function compileBinary(expression: Expression & { kind: 'binary' }, names: Names, uses: Uses): Piece {
  const left = compile(expression.left, names, uses);
  const right = compile(expression.right, names, uses);
  const { operator } = expression;
  const evaluate = (scope: Scope): Value => {
    switch (operator) {
      case 'or':
        return truthy(left.evaluate(scope)) || truthy(right.evaluate(scope));
      case 'and':
        return truthy(left.evaluate(scope)) && truthy(right.evaluate(scope));
      case '==':
        return sameValue(left.evaluate(scope), right.evaluate(scope));
      case '!=':
        return !sameValue(left.evaluate(scope), right.evaluate(scope));
      case '<':
      case '<=':
      case '>':
      case '>=':
        return compared(operator, left.evaluate(scope), right.evaluate(scope));
      case '+':
      case '-':
      case '*':
      case '/':
      case '%':
      case '<<':
      case '>>':
      case '&':
      case '|':
      case '^':
        return arithmetic(operator, left.evaluate(scope), right.evaluate(scope));
      default:
        return operator satisfies never;
    }
  };
  return { type: NUMBER, evaluate };
}

function compileCall(expression: Expression & { kind: 'call' }, names: Names, uses: Uses): Piece {
  const { name, args } = expression;
  const arity = (count: number) => {
    if (args.length !== count || Object.keys(expression.named).length > 0) {
      throw invalid(`${name} takes ${count === 1 ? 'one value' : `${count} values`}`, undefined);
    }
  };
  const argument = (index: number) => compile(args[index]!, names, uses);
  switch (name) {
    case 'count': {
      arity(1);
      const [of] = args;
      if (of?.kind === 'name' && of.name === 'entries') {
        return { type: NUMBER, evaluate: (scope) => scope.file.entryCount() };
      }
      const list = argument(0);
      if (list.type.kind !== 'list') throw invalid('count wants the entries or a repeated field', 'count(entries)');
      return { type: NUMBER, evaluate: (scope) => (list.evaluate(scope) as ListValue).length };
    }
    case 'start':
    case 'length': {
      arity(1);
      uses.layout = true;
      const region = regionNamed(args[0]!, names, name);
      return name === 'start'
        ? { type: NUMBER, evaluate: (scope) => scope.file.start(region) }
        : { type: NUMBER, evaluate: (scope) => scope.file.length(region) };
    }
    case 'plain':
    case 'stored':
      throw invalid(`${name}(…) gives bytes, and bytes can only be hashed`, `such as crc32(${name}(region))`);
    case 'lower':
    case 'upper': {
      arity(1);
      const of = argument(0);
      return {
        type: TEXT,
        evaluate: (scope) => {
          const text = of.evaluate(scope);
          if (typeof text !== 'string') throw wrongType(name, 'a text', text);
          return name === 'lower' ? text.toLowerCase() : text.toUpperCase();
        },
      };
    }
    case 'zeros': {
      arity(1);
      const of = argument(0);
      return { type: BYTES, evaluate: (scope) => new Uint8Array(madeLength(of.evaluate(scope))) };
    }
    case 'random': {
      arity(1);
      const of = argument(0);
      return {
        type: BYTES,
        evaluate: (scope) => crypto.getRandomValues(new Uint8Array(madeLength(of.evaluate(scope)))),
      };
    }
    case 'hex': {
      arity(1);
      const text = args[0];
      if (text?.kind !== 'text' || !/^([0-9a-fA-F]{2}\s*)*$/.test(text.value))
        throw invalid('hex wants a text of hex digits', 'hex("0A 1B")');
      const bytes = new Uint8Array(Buffer.from(text.value.replace(/\s/g, ''), 'hex'));
      return { type: BYTES, evaluate: () => bytes };
    }
    case 'align': {
      arity(2);
      const of = argument(0);
      const to = argument(1);
      return {
        type: NUMBER,
        evaluate: (scope) => {
          const step = wholeNumber(to.evaluate(scope), 'the alignment');
          if (step === 0) throw wrongType('align', 'an alignment above 0', 0);
          return Math.ceil(wholeNumber(of.evaluate(scope), 'the value to align') / step) * step;
        },
      };
    }
    default:
      return compileHash(expression, names, uses);
  }
}

function compileHash(expression: Expression & { kind: 'call' }, names: Names, uses: Uses): Piece {
  const { name, args } = expression;
  if (createHasher(name) === undefined) {
    const known = ['count', 'start', 'length', 'lower', 'upper', 'zeros', 'random', 'hex', 'align', ...hasherNames()];
    throw invalid(`there is no function ${name}`, `one of ${known.join(', ')}`);
  }
  const [of] = args;
  if (of === undefined || args.length !== 1) throw invalid(`${name} takes one value`);
  if (
    of.kind === 'member' &&
    of.of.kind === 'name' &&
    of.of.name === 'entry' &&
    (of.name === 'data' || of.name === 'packed')
  ) {
    if (!names.entry) throw invalid('there is no entry here');
    const which = of.name;
    if (!uses.content.some((one) => one.which === which && one.hasher === name))
      uses.content.push({ which, hasher: name });
    return { type: NUMBER, evaluate: (scope) => scope.entry!.content(which, name) };
  }
  if (of.kind === 'call' && (of.name === 'plain' || of.name === 'stored') && of.args.length === 1) {
    const region = regionNamed(of.args[0]!, names, of.name);
    const which = of.name;
    uses.regionBytes.add(region);
    uses.layout = true;
    return { type: NUMBER, evaluate: (scope) => hashOf(name, scope.file.bytes(region, which)) };
  }
  const value = compile(of, names, uses);
  return {
    type: NUMBER,
    evaluate: (scope) => {
      const bytes = value.evaluate(scope);
      if (typeof bytes === 'string') return hashOf(name, new TextEncoder().encode(bytes));
      if (bytes instanceof Uint8Array) return hashOf(name, bytes);
      throw wrongType(name, 'a text or bytes', bytes);
    },
  };
}

function regionNamed(expression: Expression, names: Names, call: string): number {
  const region = expression.kind === 'name' ? names.regions.get(expression.name) : undefined;
  if (region !== undefined) return region.index;
  throw invalid(`${call} wants a region`, `one of ${[...names.regions.keys()].join(', ')}`);
}

function madeLength(value: Value): number {
  const length = wholeNumber(value, 'the number of bytes');
  if (length <= MAX_MADE_BYTES) return length;
  throw new FormatError({
    code: 'limit-reached',
    what: 'a formula makes too many bytes',
    found: String(length),
    limit: `bytes made by a formula, ${MAX_MADE_BYTES}`,
  });
}

function wrongType(name: string, expected: string, found: Value): FormatError {
  return new FormatError({
    code: 'must-differs',
    what: `${name} cannot work on this`,
    expected,
    found: showValue(found),
  });
}

export function truthy(value: Value): boolean {
  return value !== undefined && value !== false && value !== 0 && value !== 0n && value !== '';
}

function compared(operator: '<' | '<=' | '>' | '>=', a: Value, b: Value): boolean {
  if (!isNumeric(a) || !isNumeric(b)) throw wrongType(operator, 'two numbers', isNumeric(a) ? b : a);
  switch (operator) {
    case '<':
      return a < b;
    case '<=':
      return a <= b;
    case '>':
      return a > b;
    case '>=':
      return a >= b;
    default:
      return operator satisfies never;
  }
}

/** Whole-number arithmetic, exact at any size; division rounds down. */
function arithmetic(
  operator: Exclude<BinaryOperator, 'or' | 'and' | '==' | '!=' | '<' | '<=' | '>' | '>='>,
  a: Value,
  b: Value,
): number | bigint {
  if (!isNumeric(a) || !isNumeric(b)) throw wrongType(operator, 'two numbers', isNumeric(a) ? b : a);
  if ((operator === '/' || operator === '%') && Number(b) === 0) throw wrongType(operator, 'a divisor other than 0', b);
  if (typeof a === 'number' && typeof b === 'number') {
    const quick = quickArithmetic(operator, a, b);
    if (quick !== undefined) return quick;
  }
  const x = typeof a === 'bigint' ? a : BigInt(Math.trunc(a));
  const y = typeof b === 'bigint' ? b : BigInt(Math.trunc(b));
  const exact = wideArithmetic(operator, x, y);
  const small = Number(exact);
  return Number.isSafeInteger(small) ? small : exact;
}

/** The answer in doubles where it is exact, else undefined. */
function quickArithmetic(operator: string, a: number, b: number): number | undefined {
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
    default:
      return undefined;
  }
  return Number.isSafeInteger(result) && Math.abs(a) < 2 ** 52 && Math.abs(b) < 2 ** 52 ? result : undefined;
}

function wideArithmetic(operator: string, x: bigint, y: bigint): bigint {
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
      throw invalid(`there is no operator ${operator}`);
  }
}
