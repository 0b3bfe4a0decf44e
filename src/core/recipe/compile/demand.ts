/** What `must` says, and the bytes of `match`. */
import { FormatError } from '../../faults';
import { isNumeric, sameValue, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import { parseExpression, type Expression } from '../language/expression';
import type { FieldText } from '../language/schema';
import type { Demand, FieldType } from '../model';
import { inLine, invalid } from './setting';

type Must = NonNullable<FieldText['must']>;

/** One value, a list, a range such as `1..8`, or what it must not be. @throws FormatError `recipe-invalid` */
export function compileDemand(must: Must, type: FieldType, line: number): Demand {
  if (typeof must === 'object' && 'not' in must) {
    const { text, holds } = compileDemand(must.not, type, line);
    return { text: `not ${text}`, holds: (value) => !holds(value), only: undefined, choices: undefined };
  }
  const choices = (Array.isArray(must) ? must : [must]).map((one) => demandOf(one, type, line));
  const [first] = choices;
  if (choices.length === 1) return first!;
  return {
    text: `one of ${choices.map((choice) => choice.text).join(', ')}`,
    holds: (value) => choices.some((choice) => choice.holds(value)),
    // The last of a list is the newest, as in versions.
    only: choices.at(-1)!.only,
    choices: choices.some((choice) => choice.choices === undefined)
      ? undefined
      : choices.flatMap((choice) => choice.choices!),
  };
}

function demandOf(one: string | number | boolean, type: FieldType, line: number): Demand {
  if (type.kind === 'any') return exactly(one);
  if (type.kind !== 'value') throw invalid(line, 'must is for numbers, texts and bytes');
  if (type.of === 'text') return exactly(String(one));
  if (type.of === 'bytes') {
    const bytes = typeof one === 'string' ? hexBytesOf(one) : undefined;
    if (bytes !== undefined) return exactly(bytes);
    throw invalid(line, `"${one}" is not a row of bytes`, 'hex digits, such as "52 45 45 4C"');
  }
  if (typeof one !== 'string') return exactly(one);
  const expression = inLine(line, () => parseExpression(one));
  const single = numberOf(expression);
  if (single !== undefined) return exactly(single);
  const low = expression.kind === 'range' ? numberOf(expression.from) : undefined;
  const high = expression.kind === 'range' ? numberOf(expression.to) : undefined;
  if (low !== undefined && high !== undefined) {
    if (low > high) throw invalid(line, `the range ${one} is empty`, 'the smaller number first');
    return {
      text: `${low.toLocaleString('en')} to ${high.toLocaleString('en')}`,
      holds: (value) => isNumeric(value) && value >= low && value <= high,
      only: low,
      choices: undefined,
    };
  }
  throw invalid(line, `"${one}" is not a number`, 'a number, a list of numbers, or a range such as 1..8');
}

/** A number, with a sign or without. */
function numberOf(expression: Expression): number | bigint | undefined {
  if (expression.kind === 'number') return expression.value;
  return expression.kind === 'unary' && expression.operator === '-' && expression.of.kind === 'number'
    ? -expression.of.value
    : undefined;
}

function exactly(wanted: Value): Demand {
  return { text: showValue(wanted), holds: (value) => sameValue(value, wanted), only: wanted, choices: [wanted] };
}

function hexBytesOf(text: string): Uint8Array | undefined {
  const digits = text.replace(/\s/g, '');
  return /^([0-9a-f]{2})+$/i.test(digits) ? new Uint8Array(Buffer.from(digits, 'hex')) : undefined;
}

/** ASCII text, or hex digits with spaces between. @throws FormatError `recipe-invalid` */
export function signatureBytes(text: string, line: number): Uint8Array {
  if (/^([0-9a-f]{2} )+[0-9a-f]{2}$/i.test(text)) return hexBytesOf(text)!;
  if (/^hex\(.*\)$/.test(text)) {
    const bytes = hexBytesOf(text.slice(4, -1).replace(/["']/g, ''));
    if (bytes !== undefined) return bytes;
  }
  const plain = text.replace(/\\(x[0-9a-fA-F]{2}|[0nrt\\])/g, (_, code: string) => {
    if (code.startsWith('x')) return String.fromCharCode(parseInt(code.slice(1), 16));
    return { 0: '\0', n: '\n', r: '\r', t: '\t', '\\': '\\' }[code] ?? code;
  });
  if ([...plain].some((char) => char.charCodeAt(0) > 0xff))
    throw new FormatError({
      code: 'recipe-invalid',
      line,
      what: `"${text}" is neither ASCII text nor hex bytes`,
      expected: '"HOLD", "PK\\\\x03\\\\x04" or "48 4F 4C 44"',
    });
  return new Uint8Array(Buffer.from(plain, 'latin1'));
}
