/** Numbers of fixed size: whole ones of any width, floating point. */
import type { ByteWriter, Cursor } from '../../bytes';
import { FormatError } from '../../faults';
import { isNumeric, type Scope, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { FieldKind } from '../model';
import { NumberColumn, WideColumn } from '../read/columns';
import type { NumberStore } from '../read/growing';
import { isLittle, type KindSetting } from './setting';

export interface NumberFacts {
  /** Bytes. */
  readonly size: number;
  readonly store: NumberStore | 'wide';
  readonly low: number | bigint;
  readonly high: number | bigint;
  read(cursor: Cursor, little: boolean): number | bigint;
  write(writer: ByteWriter, value: number | bigint, little: boolean): void;
}

const whole = (bits: number, signed: boolean): Pick<NumberFacts, 'low' | 'high'> => ({
  low: signed ? -(2n ** BigInt(bits - 1)) : 0n,
  high: signed ? 2n ** BigInt(bits - 1) - 1n : 2n ** BigInt(bits) - 1n,
});
const real = { low: -Infinity, high: Infinity };

/** Whole numbers of 3, 5, 6 or 7 bytes, byte by byte. */
function odd(size: number, signed: boolean): NumberFacts {
  const high = 256 ** size;
  return {
    size,
    store: size > 6 ? 'wide' : 'f64',
    ...whole(size * 8, signed),
    read: (cursor, little) => {
      const bytes = cursor.take(size);
      let value = 0n;
      for (let i = 0; i < size; i++) value = (value << 8n) | BigInt(bytes[little ? size - 1 - i : i]!);
      if (signed && value >= BigInt(high) / 2n) value -= BigInt(high);
      return Number.isSafeInteger(Number(value)) ? Number(value) : value;
    },
    write: (writer, value, little) => {
      const wide = BigInt.asUintN(size * 8, BigInt(value));
      for (let i = 0; i < size; i++) writer.u8(Number((wide >> BigInt(8 * (little ? i : size - 1 - i))) & 0xffn));
    },
  };
}

/** IEEE 754 half precision: 1 sign bit, 5 exponent bits, 10 fraction bits. */
function readHalf(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 0x1f;
  const fraction = bits & 0x3ff;
  if (exponent === 0) return sign * fraction * 2 ** -24;
  if (exponent === 31) return fraction === 0 ? sign * Infinity : NaN;
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
}

function writeHalf(value: number): number {
  if (Number.isNaN(value)) return 0x7e00;
  const sign = value < 0 || Object.is(value, -0) ? 0x8000 : 0;
  const size = Math.abs(value);
  if (size >= 65520) return sign | 0x7c00;
  if (size < 2 ** -14) return sign | roundEven(size * 2 ** 24);
  const exponent = Math.floor(Math.log2(size));
  return sign | (((exponent + 15) << 10) + roundEven((size / 2 ** exponent - 1) * 1024));
}

/** To the nearest, halves to the even one, as IEEE 754 rounds. */
function roundEven(value: number): number {
  const low = Math.floor(value);
  const rest = value - low;
  return rest > 0.5 || (rest === 0.5 && low % 2 === 1) ? low + 1 : low;
}

export const NUMBERS: Readonly<Record<string, NumberFacts>> = {
  u8: { size: 1, store: 'u8', ...whole(8, false), read: (c) => c.u8(), write: (w, v) => w.u8(Number(v)) },
  i8: { size: 1, store: 'i8', ...whole(8, true), read: (c) => c.i8(), write: (w, v) => w.u8(Number(v)) },
  u16: {
    size: 2,
    store: 'u16',
    ...whole(16, false),
    read: (c, l) => c.u16(l),
    write: (w, v, l) => w.u16(Number(v), l),
  },
  i16: { size: 2, store: 'i16', ...whole(16, true), read: (c, l) => c.i16(l), write: (w, v, l) => w.u16(Number(v), l) },
  u24: odd(3, false),
  i24: odd(3, true),
  u32: {
    size: 4,
    store: 'u32',
    ...whole(32, false),
    read: (c, l) => c.u32(l),
    write: (w, v, l) => w.u32(Number(v), l),
  },
  i32: { size: 4, store: 'i32', ...whole(32, true), read: (c, l) => c.i32(l), write: (w, v, l) => w.u32(Number(v), l) },
  u40: odd(5, false),
  u48: odd(6, false),
  u56: odd(7, false),
  u64: { size: 8, store: 'wide', ...whole(64, false), read: (c, l) => c.u64(l), write: (w, v, l) => w.u64(v, l) },
  i64: { size: 8, store: 'wide', ...whole(64, true), read: (c, l) => c.i64(l), write: (w, v, l) => w.u64(v, l) },
  f16: {
    size: 2,
    store: 'f64',
    ...real,
    read: (c, l) => readHalf(c.u16(l)),
    write: (w, v, l) => w.u16(writeHalf(Number(v)), l),
  },
  f32: { size: 4, store: 'f32', ...real, read: (c, l) => c.f32(l), write: (w, v, l) => w.f32(Number(v), l) },
  f64: { size: 8, store: 'f64', ...real, read: (c, l) => c.f64(l), write: (w, v, l) => w.f64(Number(v), l) },
};

/** A number as a field writes it. @throws FormatError `layout-impossible` when it does not fit */
export function writeNumber(
  name: string,
  facts: NumberFacts,
  writer: ByteWriter,
  value: Value,
  little: boolean,
  scope?: Scope,
): void {
  const number = typeof value === 'boolean' ? Number(value) : (value ?? 0);
  const real = facts.low === -Infinity && typeof number === 'number';
  if (!real && (!isNumeric(number) || number < facts.low || number > facts.high)) {
    // Before the layout has come to rest, offsets may be in a wrong order for a round.
    if (scope?.unfitCount !== undefined && (isNumeric(number) || number === undefined)) {
      scope.unfitCount++;
      return facts.write(writer, 0, little);
    }
    throw new FormatError({
      code: 'layout-impossible',
      what: `the value does not fit ${name}`,
      expected: `${facts.low.toLocaleString('en')} to ${facts.high.toLocaleString('en')}`,
      found: showValue(value),
      hint: 'The format has no room for this many or this much.',
    });
  }
  facts.write(writer, number as number, little);
}

export function numberKind(name: string, facts: NumberFacts, { numbers }: KindSetting): FieldKind {
  const { size, read, low, store } = facts;
  const little = numbers !== 'big';
  return {
    text: name,
    fixedSize: size,
    minSize: size,
    flows: false,
    type: { kind: 'value', of: 'number' },
    makeColumn: () => (store === 'wide' ? new WideColumn(low !== 0n) : new NumberColumn(store)),
    read:
      numbers === 'stored'
        ? (cursor, column, row, context) =>
            (column as WideColumn).put(row, read(cursor, isLittle(numbers, context.scope)))
        : (cursor, column, row) => (column as WideColumn).put(row, read(cursor, little)),
    write: (writer, value, scope: Scope) => writeNumber(name, facts, writer, value, isLittle(numbers, scope), scope),
  };
}
