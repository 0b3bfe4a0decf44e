/** Numbers that are stretches of bytes: variable length, and written as text. Their bytes are kept as found. */
import type { Cursor } from '../../bytes';
import { FormatError, hexBytes } from '../../faults';
import { isNumeric, type Value } from '../formula/value';
import { showValue, wholeNumber } from '../formula/show-value';
import type { FieldKind, Formula } from '../model';
import { StretchColumn } from '../read/columns';

/** The longest variable number: 64 bits in groups of 7. */
const MAX_GROUPS = 10;

interface VarintFlavour {
  readonly about: string;
  /** The most significant group comes first. */
  readonly big: boolean;
  fromGroups(value: bigint, groups: number): bigint;
  toGroups(value: bigint): bigint;
  readonly signed: boolean;
}

const FLAVOURS: Readonly<Record<string, VarintFlavour>> = {
  varint: {
    about: 'LEB128, 7 bits a byte, lowest first',
    big: false,
    signed: false,
    fromGroups: (v) => v,
    toGroups: (v) => v,
  },
  'signed-varint': {
    about: 'LEB128 with a sign',
    big: false,
    signed: true,
    fromGroups: (v, groups) => BigInt.asIntN(Math.min(64, groups * 7), v),
    toGroups: (v) => v,
  },
  zigzag: {
    about: 'LEB128 with the sign in the lowest bit',
    big: false,
    signed: false,
    fromGroups: (v) => (v >> 1n) ^ -(v & 1n),
    toGroups: (v) => (v >= 0n ? v << 1n : (-v << 1n) - 1n),
  },
  'varint-big': {
    about: '7 bits a byte, highest first',
    big: true,
    signed: false,
    fromGroups: (v) => v,
    toGroups: (v) => v,
  },
};

export const VARINT_NAMES: readonly string[] = Object.keys(FLAVOURS);

export function readVarint(name: string, cursor: Cursor): number | bigint {
  const start = cursor.position;
  for (let groups = 1; groups <= MAX_GROUPS; groups++) {
    if ((cursor.u8() & 0x80) === 0) return decodeVarint(FLAVOURS[name]!, cursor.bytes.subarray(start, cursor.position));
  }
  throw new FormatError({
    code: 'must-differs',
    offset: cursor.base + start,
    expected: `at most ${MAX_GROUPS} bytes of a ${name}`,
    found: hexBytes(cursor.bytes.subarray(start, cursor.position), 12),
  });
}

function decodeVarint(flavour: VarintFlavour, bytes: Uint8Array): number | bigint {
  let value = 0n;
  for (let i = 0; i < bytes.length; i++) {
    const group = BigInt(bytes[flavour.big ? i : bytes.length - 1 - i]! & 0x7f);
    value = (value << 7n) | group;
  }
  const result = flavour.fromGroups(value, bytes.length);
  return Number.isSafeInteger(Number(result)) ? Number(result) : result;
}

export function encodeVarint(name: string, value: Value): Uint8Array {
  const flavour = FLAVOURS[name]!;
  const number = typeof value === 'boolean' ? Number(value) : (value ?? 0);
  if (!isNumeric(number) || (number < 0 && name !== 'zigzag' && !flavour.signed))
    throw new FormatError({
      code: 'layout-impossible',
      what: `the value does not fit ${name}`,
      found: showValue(value),
    });
  const groups: number[] = [];
  let left = flavour.toGroups(BigInt(number));
  for (;;) {
    const group = Number(left & 0x7fn);
    left >>= 7n;
    groups.push(group);
    if (flavour.signed) {
      const done = (left === 0n && (group & 0x40) === 0) || (left === -1n && (group & 0x40) !== 0);
      if (done) break;
    } else if (left === 0n) break;
  }
  if (flavour.big) groups.reverse();
  return Uint8Array.from(groups, (group, i) => (i < groups.length - 1 ? group | 0x80 : group));
}

export function varintKind(name: string): FieldKind {
  const flavour = FLAVOURS[name]!;
  return {
    text: name,
    fixedSize: undefined,
    minSize: 1,
    flows: false,
    type: { kind: 'value', of: 'number' },
    makeColumn: () => new StretchColumn((stretch) => decodeVarint(flavour, stretch)),
    read: (cursor, column, row, context) => {
      const start = cursor.position;
      const value = readVarint(name, cursor);
      const length = cursor.position - start;
      // A group of nothing at the end that counts most says nothing.
      const empty = flavour.big ? cursor.bytes[start] === 0x80 : cursor.bytes[cursor.position - 1] === 0;
      if (length > 1 && empty && encodeVarint(name, value).length < length)
        context.remark ??= {
          what: `a ${name} is longer than its value needs`,
          expected: hexBytes(encodeVarint(name, value)),
          found: hexBytes(cursor.bytes.subarray(start, cursor.position), 8),
        };
      (column as StretchColumn).put(row, cursor.bytes, start, length);
    },
    write: (writer, value) => writer.put(value instanceof Uint8Array ? value : encodeVarint(name, value)),
  };
}

/** `digits(n, base)`: a number in n ASCII digits, as tape archives and text headers have them. */
export function digitsKind(text: string, length: Formula, base: number): FieldKind {
  const name = `digits of base ${base}`;
  const decode = (stretch: Uint8Array): Value => {
    const digits = Buffer.from(stretch)
      .toString('latin1')
      .replace(/[\0 ]+$/, '')
      .trimStart();
    if (digits === '') return 0;
    const allowed = '0123456789abcdefghijklmnopqrstuvwxyz'.slice(0, base);
    let value = 0n;
    for (const char of digits.toLowerCase()) {
      const digit = allowed.indexOf(char);
      if (digit < 0) throw new FormatError({ code: 'bad-text', expected: name, found: JSON.stringify(digits) });
      value = value * BigInt(base) + BigInt(digit);
    }
    return Number.isSafeInteger(Number(value)) ? Number(value) : value;
  };
  const constant = /^\d+$/.test(length.text) ? Number(length.text) : undefined;
  return {
    text,
    fixedSize: constant,
    minSize: constant ?? 0,
    flows: false,
    type: { kind: 'value', of: 'number' },
    makeColumn: () => new StretchColumn(decode),
    read: (cursor, column, row, context) => {
      const size = constant ?? wholeNumber(length.evaluate(context.scope), 'the number of digits');
      (column as StretchColumn).put(row, cursor.bytes, cursor.advance(size), size);
    },
    write: (writer, value, scope) => {
      if (value instanceof Uint8Array) return writer.put(value);
      const size = constant ?? wholeNumber(length.evaluate(scope), 'the number of digits');
      const digits = wide(value, name).toString(base).padStart(size, '0');
      if (digits.length > size)
        throw new FormatError({
          code: 'layout-impossible',
          what: `the value does not fit ${size} ${name}`,
          found: showValue(value),
        });
      writer.put(new TextEncoder().encode(digits));
    },
  };
}

function wide(value: Value, name: string): bigint {
  const number = value ?? 0;
  if (isNumeric(number) && number >= 0) return BigInt(number);
  throw new FormatError({
    code: 'layout-impossible',
    what: `the value cannot be written in ${name}`,
    found: showValue(value),
  });
}
