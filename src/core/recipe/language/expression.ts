/**
 * The small language of formulas: numbers, texts, names, members, calls, arithmetic. One grammar serves `as`, `is`,
 * `when`, `at`, `length`, `holds` and `through`. It has no loops, no assignment and no access to anything but what the
 * recipe's scope offers.
 */
import { FormatError } from '../../faults';

export type BinaryOperator = (typeof LEVELS)[number][number];

export type Expression =
  | { readonly kind: 'number'; readonly value: number | bigint }
  | { readonly kind: 'text'; readonly value: string }
  | { readonly kind: 'name'; readonly name: string }
  | { readonly kind: 'member'; readonly of: Expression; readonly name: string }
  | { readonly kind: 'index'; readonly of: Expression; readonly at: Expression | undefined }
  | {
      readonly kind: 'call';
      readonly name: string;
      readonly args: readonly Expression[];
      readonly named: Readonly<Record<string, Expression>>;
    }
  | {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly left: Expression;
      readonly right: Expression;
    }
  | { readonly kind: 'unary'; readonly operator: '-' | 'not'; readonly of: Expression }
  | { readonly kind: 'range'; readonly from: Expression; readonly to: Expression };

/** Operators by precedence, the loosest first. */
const LEVELS = [
  ['or'],
  ['and'],
  ['==', '!=', '<', '<=', '>', '>='],
  ['|'],
  ['^'],
  ['&'],
  ['<<', '>>'],
  ['+', '-'],
  ['*', '/', '%'],
] as const;

/** How deep an expression may nest. */
const MAX_DEPTH = 64;
/** How many operators, fields or items may follow one another on one level: each nests in the next. */
const MAX_CHAIN = 128;
const SHOWN_LENGTH = 120;

interface Token {
  readonly kind: 'number' | 'text' | 'name' | 'sign' | 'end';
  readonly text: string;
  readonly at: number;
}

/** A hyphen between word characters belongs to the name (`aes-256-cbc`); subtraction wants spaces around it. */
const TOKEN =
  /\s*(?:(0x[0-9a-fA-F_]+|[0-9][0-9_]*(?![A-Za-z]))|("(?:[^"\\]|\\.)*"|'[^']*')|([A-Za-z_][A-Za-z0-9_]*(?:-[A-Za-z0-9_]+)*)|(\.\.|==|!=|<=|>=|<<|>>|[-+*/%&|^<>()[\],.:]))/y;

/**
 * Parses one expression.
 *
 * @throws FormatError `recipe-invalid` with the column (1-based) in `found`
 */
export function parseExpression(text: string): Expression {
  const tokens = tokenize(text);
  let next = 0;
  let depth = 0;
  let chained = 0;

  const peek = () => tokens[next]!;
  const is = (sign: string) => peek().kind !== 'text' && peek().text === sign && peek().kind !== 'end';
  const accept = (sign: string) => (is(sign) ? tokens[next++] : undefined);
  const fail = (expected: string): never => {
    const token = peek();
    throw new FormatError({
      code: 'recipe-invalid',
      what: `"${shortened(text)}" is not an expression`,
      expected,
      found: token.kind === 'end' ? 'the end' : `"${token.text}" at column ${token.at + 1}`,
    });
  };
  const need = (sign: string) => {
    if (accept(sign) === undefined) fail(`"${sign}"`);
  };

  const link = () => {
    if (++chained > MAX_CHAIN) fail(`at most ${MAX_CHAIN} operators, fields and items`);
  };

  const level = (index: number): Expression => {
    const operators = LEVELS[index];
    if (operators === undefined) return unary();
    let left = level(index + 1);
    for (;;) {
      const operator = (operators as readonly BinaryOperator[]).find((candidate) => is(candidate));
      if (operator === undefined) return left;
      next++;
      link();
      left = { kind: 'binary', operator, left, right: level(index + 1) };
    }
  };
  const unary = (): Expression => {
    if (++depth > MAX_DEPTH) fail(`at most ${MAX_DEPTH} levels of nesting`);
    let result: Expression;
    if (accept('-')) result = { kind: 'unary', operator: '-', of: unary() };
    else if (accept('not')) result = { kind: 'unary', operator: 'not', of: unary() };
    else result = postfix();
    depth--;
    return result;
  };
  const postfix = (): Expression => {
    let value = primary();
    for (;;) {
      if (accept('.')) {
        const token = tokens[next]!;
        if (token.kind !== 'name') fail('a field name');
        next++;
        link();
        value = { kind: 'member', of: value, name: token.text };
      } else if (accept('[')) {
        const at = is(']') ? undefined : whole();
        need(']');
        link();
        value = { kind: 'index', of: value, at };
      } else return value;
    }
  };
  const primary = (): Expression => {
    const token = peek();
    if (accept('(')) {
      const inner = whole();
      need(')');
      return inner;
    }
    next++;
    switch (token.kind) {
      case 'number': {
        const value = BigInt(token.text.replaceAll('_', ''));
        return {
          kind: 'number',
          value: value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value,
        };
      }
      case 'text':
        return {
          kind: 'text',
          value: token.text.startsWith('"') ? unescape(token.text) : token.text.slice(1, -1),
        };
      case 'name':
        return accept('(') ? call(token.text) : { kind: 'name', name: token.text };
      default:
        next--;
        return fail('a number, a text or a name');
    }
  };
  const call = (name: string): Expression => {
    const args: Expression[] = [];
    const named: Record<string, Expression> = {};
    while (!is(')')) {
      const following = tokens[next + 1];
      if (peek().kind === 'name' && following?.kind === 'sign' && following.text === ':') {
        const key = tokens[next]!.text;
        next += 2;
        named[key] = whole();
      } else args.push(whole());
      if (accept(',') === undefined) break;
    }
    need(')');
    return { kind: 'call', name, args, named };
  };
  const whole = (): Expression => {
    const from = level(0);
    return accept('..') ? { kind: 'range', from, to: level(0) } : from;
  };

  const result = whole();
  if (peek().kind !== 'end') fail('the end');
  return result;
}

function shortened(text: string): string {
  return text.length <= SHOWN_LENGTH ? text : `${text.slice(0, SHOWN_LENGTH)}…`;
}

function tokenize(text: string): Token[] {
  const tokens: Token[] = [];
  const trimmed = text.trimEnd();
  TOKEN.lastIndex = 0;
  let at = 0;
  while (at < trimmed.length) {
    TOKEN.lastIndex = at;
    const match = TOKEN.exec(trimmed);
    if (match === null) {
      throw new FormatError({
        code: 'recipe-invalid',
        what: `"${shortened(text)}" is not an expression`,
        found: `"${trimmed.slice(at).trimStart().slice(0, 12)}" at column ${at + 1}`,
      });
    }
    const [whole, number, quoted, name, sign] = match;
    const token = number ?? quoted ?? name ?? sign ?? '';
    const kind = number !== undefined ? 'number' : quoted !== undefined ? 'text' : name !== undefined ? 'name' : 'sign';
    tokens.push({ kind, text: token, at: at + whole.length - token.length });
    at += whole.length;
  }
  tokens.push({ kind: 'end', text: '', at: trimmed.length });
  return tokens;
}

/** `\\n`, `\\r`, `\\t`, `\\0` and `\\xHH` are what they are elsewhere; any other character represents itself. */
function unescape(quoted: string): string {
  const named: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t', 0: '\0' };
  return quoted
    .slice(1, -1)
    .replace(/\\(x[0-9a-fA-F]{2}|.)/g, (_, code: string) =>
      code.length === 3 ? String.fromCharCode(parseInt(code.slice(1), 16)) : (named[code] ?? code),
    );
}
