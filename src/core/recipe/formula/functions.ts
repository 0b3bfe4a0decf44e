/** Functions of formulas that need nothing but their values: texts, bytes, numbers. */
import { pbkdf2Sync } from 'node:crypto';
import { copyOf } from '../../bytes';
import { FormatError } from '../../faults';
import { fromDos } from '../kinds/dos-time';
import { ENCODINGS, textCodec, type Encoding } from '../kinds/text-codec';
import { arithmetic, compareValues, wrongType } from './arithmetic';
import { isNumeric, type Value } from './value';
import { wholeNumber } from './show-value';

export interface PlainFunction {
  /** How it is called, for messages and the reference. */
  readonly call: string;
  readonly about: string;
  readonly least: number;
  readonly most: number;
  readonly gives: 'number' | 'text' | 'bytes' | 'any';
  /** Arguments that are words (`big`, `utf-8`) rather than values, by position. */
  readonly words?: Readonly<Record<number, readonly string[]>>;
  compute(args: readonly Value[]): Value;
}

/** The most bytes or characters a formula may make. */
const MAX_MADE = 1 << 16;
const MAX_ROUNDS = 1_000_000;

const text = (value: Value, name: string): string => {
  if (typeof value === 'string') return value;
  throw wrongType(name, 'a text', value);
};
const bytes = (value: Value, name: string): Uint8Array => {
  if (value instanceof Uint8Array) return value;
  if (typeof value === 'string') return new TextEncoder().encode(value);
  throw wrongType(name, 'bytes or a text', value);
};
const made = (value: Value): number => {
  const length = wholeNumber(value, 'a length');
  if (length <= MAX_MADE) return length;
  throw new FormatError({
    code: 'limit-reached',
    what: 'a formula makes too much',
    found: String(length),
    limit: `bytes made by a formula, ${MAX_MADE}`,
  });
};
const ENDIAN = ['little', 'big'];

function numberBytes(value: Value, width: number, little: boolean): Uint8Array {
  if (!isNumeric(value)) throw wrongType('to-bytes', 'a number', value);
  let left = BigInt.asUintN(width * 8, BigInt(value));
  const result = new Uint8Array(width);
  for (let i = 0; i < width; i++, left >>= 8n) result[little ? i : width - 1 - i] = Number(left & 0xffn);
  return result;
}

function fromBytes(source: Uint8Array, at: number, width: number, little: boolean): number | bigint {
  if (at + width > source.length) throw wrongType('from-bytes', `${width} bytes from ${at}`, source.length);
  let result = 0n;
  for (let i = 0; i < width; i++) result = (result << 8n) | BigInt(source[little ? at + width - 1 - i : at + i]!);
  return result <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(result) : result;
}

function folderOf(path: string): string {
  return path.slice(0, Math.max(0, path.lastIndexOf('/')));
}
function nameOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}
function extensionOf(path: string): string {
  const name = nameOf(path);
  const dot = name.lastIndexOf('.');
  return dot <= 0 ? '' : name.slice(dot + 1);
}

function parseNumber(source: string, base: number): number | bigint {
  const trimmed = source.trim();
  const digits = '0123456789abcdefghijklmnopqrstuvwxyz'.slice(0, base);
  let result = 0n;
  for (const char of trimmed.toLowerCase()) {
    const digit = digits.indexOf(char);
    if (digit < 0) throw wrongType('number', `digits of base ${base}`, source);
    result = result * BigInt(base) + BigInt(digit);
  }
  if (trimmed === '') throw wrongType('number', `digits of base ${base}`, source);
  return result <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(result) : result;
}

function padded(value: Value, width: Value, base: number): string {
  if (!isNumeric(value)) throw wrongType(base === 10 ? 'decimal' : 'hexadecimal', 'a number', value);
  return value.toString(base).padStart(width === undefined ? 0 : made(width), '0');
}

export const PLAIN_FUNCTIONS: Readonly<Record<string, PlainFunction>> = {
  lower: fn('lower(text)', 'the text in lower case', 1, 1, 'text', ([a]) => text(a, 'lower').toLowerCase()),
  upper: fn('upper(text)', 'the text in upper case', 1, 1, 'text', ([a]) => text(a, 'upper').toUpperCase()),
  'ascii-lower': fn('ascii-lower(text)', 'A to Z in lower case, nothing else', 1, 1, 'text', ([a]) =>
    text(a, 'ascii-lower').replace(/[A-Z]/g, (c) => c.toLowerCase()),
  ),
  replace: fn('replace(text, from, to)', 'every `from` in the text as `to`', 3, 3, 'text', ([a, b, c]) =>
    text(b, 'replace') === ''
      ? text(a, 'replace')
      : text(a, 'replace').replaceAll(text(b, 'replace'), () => text(c, 'replace')),
  ),
  trim: fn('trim(text)', 'the text without white space and zeros at its ends', 1, 1, 'text', ([a]) =>
    text(a, 'trim').replace(/^[\s\0]+|[\s\0]+$/g, ''),
  ),
  name: fn('name(path)', 'the part after the last `/`', 1, 1, 'text', ([a]) => nameOf(text(a, 'name'))),
  folder: fn('folder(path)', 'the part before the last `/`, or nothing', 1, 1, 'text', ([a]) =>
    folderOf(text(a, 'folder')),
  ),
  extension: fn('extension(path)', 'the part after the last `.` of the name', 1, 1, 'text', ([a]) =>
    extensionOf(text(a, 'extension')),
  ),
  stem: fn('stem(path)', 'the path without its extension and the dot', 1, 1, 'text', ([a]) => {
    const path = text(a, 'stem');
    const extension = extensionOf(path);
    return extension === '' ? path : path.slice(0, -extension.length - 1);
  }),
  join: fn('join(folder, name)', 'both with a `/` between, or the name alone', 2, 8, 'text', (parts) =>
    parts
      .map((part) => (part === undefined ? '' : text(part, 'join')))
      .filter((part) => part !== '')
      .join('/'),
  ),
  between: fn(
    'between(text, before, after)',
    'the part between the first `before` and the next `after`; nothing when either is missing',
    3,
    3,
    'text',
    ([a, b, c]) => {
      const source = text(a, 'between');
      const from = source.indexOf(text(b, 'between'));
      if (from < 0) return '';
      const start = from + text(b, 'between').length;
      const end = text(c, 'between') === '' ? source.length : source.indexOf(text(c, 'between'), start);
      return end < 0 ? '' : source.slice(start, end);
    },
  ),
  part: fn(
    'part(text or bytes, from, length)',
    'characters or bytes from `from` on; to the end without a length',
    2,
    3,
    'any',
    ([a, b, c]) => {
      const from = wholeNumber(b, 'part');
      const to = c === undefined ? undefined : from + wholeNumber(c, 'part');
      return typeof a === 'string' ? a.slice(from, to) : copyOf(bytes(a, 'part'), from, to);
    },
  ),
  contains: fn('contains(text, piece)', 'whether the text contains the piece', 2, 2, 'number', ([a, b]) =>
    text(a, 'contains').includes(text(b, 'contains')),
  ),
  starts: fn('starts(text, piece)', 'whether the text begins with the piece', 2, 2, 'number', ([a, b]) =>
    text(a, 'starts').startsWith(text(b, 'starts')),
  ),
  ends: fn('ends(text, piece)', 'whether the text ends with the piece', 2, 2, 'number', ([a, b]) =>
    text(a, 'ends').endsWith(text(b, 'ends')),
  ),
  decimal: fn(
    'decimal(number, width)',
    'the number as text, with zeros in front up to the width',
    1,
    2,
    'text',
    ([a, b]) => padded(a, b, 10),
  ),
  hexadecimal: fn('hexadecimal(number, width)', 'the same in hex digits', 1, 2, 'text', ([a, b]) => padded(a, b, 16)),
  number: fn(
    'number(text, base)',
    'the number that a text represents; base 10 unless stated',
    1,
    2,
    'number',
    ([a, b]) => {
      const base = b === undefined ? 10 : wholeNumber(b, 'the base');
      if (base < 2 || base > 36) throw wrongType('number', 'a base from 2 to 36', b);
      return parseNumber(text(a, 'number'), base);
    },
  ),
  digits: fn(
    'digits(text)',
    'the first run of decimal digits in a text as a number; 0 when there is none',
    1,
    1,
    'number',
    ([a]) => Number(/\d{1,15}/.exec(text(a, 'digits'))?.[0] ?? 0),
  ),
  align: fn('align(n, step)', 'n rounded up to a multiple of step', 2, 2, 'number', ([a, b]) => {
    const step = wholeNumber(b, 'the alignment');
    if (step === 0) throw wrongType('align', 'an alignment above 0', 0);
    return Math.ceil(wholeNumber(a, 'the value to align') / step) * step;
  }),
  ceil: fn('ceil(a, b)', 'a divided by b, rounded up', 2, 2, 'number', ([a, b]) =>
    arithmetic('-', 0, arithmetic('/', arithmetic('-', 0, a), b)),
  ),
  min: fn('min(a, b)', 'the smaller', 2, 2, 'number', ([a, b]) => (compareValues(a, b) <= 0 ? a : b)),
  max: fn('max(a, b)', 'the larger', 2, 2, 'number', ([a, b]) => (compareValues(a, b) >= 0 ? a : b)),
  wrap: fn('wrap(n, bits)', 'the lowest bits of n, as a number without a sign', 2, 2, 'number', ([a, b]) => {
    if (!isNumeric(a)) throw wrongType('wrap', 'a number', a);
    const wide = BigInt.asUintN(wholeNumber(b, 'bits'), BigInt(a));
    return wide <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(wide) : wide;
  }),
  rotate: fn(
    'rotate(n, by, bits)',
    'n turned left by so many bits, within a width of 8, 16, 32 or 64 bits',
    3,
    3,
    'number',
    ([a, b, c]) => {
      if (!isNumeric(a)) throw wrongType('rotate', 'a number', a);
      const width = wholeNumber(c, 'bits');
      const by = BigInt(wholeNumber(b, 'by') % width);
      const value = BigInt.asUintN(width, BigInt(a));
      const turned = BigInt.asUintN(width, (value << by) | (value >> (BigInt(width) - by)));
      return turned <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(turned) : turned;
    },
  ),
  zeros: fn('zeros(n)', 'n bytes of zero', 1, 1, 'bytes', ([a]) => new Uint8Array(made(a))),
  fill: fn('fill(n, byte)', 'n bytes of one value', 2, 2, 'bytes', ([a, b]) =>
    new Uint8Array(made(a)).fill(wholeNumber(b, 'a byte')),
  ),
  random: fn('random(n)', 'n unpredictable bytes', 1, 1, 'bytes', ([a]) =>
    crypto.getRandomValues(new Uint8Array(made(a))),
  ),
  unhex: fn('unhex(text)', 'the bytes of a text of hex digits', 1, 1, 'bytes', ([a]) => {
    const digits = text(a, 'unhex').replace(/\s/g, '');
    if (digits.length % 2 !== 0 || !/^[0-9a-f]*$/i.test(digits)) throw wrongType('unhex', 'pairs of hex digits', a!);
    return new Uint8Array(Buffer.from(digits, 'hex'));
  }),
  'to-bytes': fn(
    'to-bytes(n, width, little)',
    'a number as so many bytes, `little` or `big`',
    3,
    3,
    'bytes',
    ([a, b, c]) => numberBytes(a, made(b), c === 'little'),
    { 2: ENDIAN },
  ),
  'from-bytes': fn(
    'from-bytes(bytes, from, width, little)',
    'the number at that position',
    4,
    4,
    'number',
    ([a, b, c, d]) => fromBytes(bytes(a, 'from-bytes'), wholeNumber(b, 'from'), made(c), d === 'little'),
    { 3: ENDIAN },
  ),
  encode: fn(
    'encode(text, encoding)',
    'the bytes of a text; UTF-16 is little-endian',
    2,
    2,
    'bytes',
    ([a, b]) => textCodec(b as Encoding, true).encode(text(a, 'encode')),
    { 1: ENCODINGS },
  ),
  decode: fn(
    'decode(bytes, encoding)',
    'the text of bytes',
    2,
    2,
    'text',
    ([a, b]) => textCodec(b as Encoding, true).decode(bytes(a, 'decode')),
    { 1: ENCODINGS },
  ),
  xor: fn('xor(a, b)', 'bytes of a, each combined with one of b, which repeats', 2, 2, 'bytes', ([a, b]) => {
    const key = bytes(b, 'xor');
    if (key.length === 0) throw wrongType('xor', 'at least one byte', b);
    return copyOf(bytes(a, 'xor')).map((byte, i) => byte ^ key[i % key.length]!);
  }),
  reverse: fn('reverse(bytes)', 'the bytes from last to first', 1, 1, 'bytes', ([a]) =>
    copyOf(bytes(a, 'reverse')).reverse(),
  ),
  repeat: fn('repeat(bytes, n)', 'the bytes n times', 2, 2, 'bytes', ([a, b]) => {
    const one = bytes(a, 'repeat');
    made(one.length * wholeNumber(b, 'n'));
    return new Uint8Array(Buffer.concat(Array.from({ length: wholeNumber(b, 'n') }, () => one)));
  }),
  'dos-time': fn(
    'dos-time(n)',
    'an MS-DOS date (upper 16 bits) and time as milliseconds since 1970',
    1,
    1,
    'number',
    ([a]) => fromDos(wholeNumber(a, 'the time')),
  ),
  pbkdf2: fn(
    'pbkdf2(secret, salt, rounds, length, hash)',
    'a key from a secret (RFC 8018), with `md5`, `sha1`, `sha256` or `sha512`',
    5,
    5,
    'bytes',
    ([a, b, c, d, e]) => {
      const rounds = wholeNumber(c, 'rounds');
      if (rounds < 1 || rounds > MAX_ROUNDS) throw wrongType('pbkdf2', `1 to ${MAX_ROUNDS} rounds`, c);
      return new Uint8Array(pbkdf2Sync(bytes(a, 'pbkdf2'), bytes(b, 'pbkdf2'), rounds, made(d), String(e)));
    },
    { 4: ['md5', 'sha1', 'sha256', 'sha512'] },
  ),
};

function fn(
  call: string,
  about: string,
  least: number,
  most: number,
  gives: PlainFunction['gives'],
  compute: (args: readonly Value[]) => Value,
  words?: PlainFunction['words'],
): PlainFunction {
  return { call, about, least, most, gives, compute, ...(words === undefined ? {} : { words }) };
}
