/** The kinds of field a recipe can name in `as`, each with its reader and writer. */
import type { ByteWriter, Cursor } from '../bytes';
import { FormatError, LimitError } from '../faults';
import { parseExpression, type Expression } from './expression';
import { compileFormula, type Names } from './formula';
import type { FieldKind, FieldType, Formula, ReadContext, Shape } from './model';
import { readRow } from './read-row';
import { ListColumn, NumberColumn, ShapeColumn, StretchColumn, WideColumn, type NumberStore } from './table';
import { ENCODINGS, textCodec, type Encoding } from './text-codec';
import { isNumeric, showValue, wholeNumber, type Fields, type ListValue, type Value } from './value';
import { writeRow } from './write-row';

export interface KindSetting {
  readonly little: boolean;
  readonly names: Names;
  readonly shapes: ReadonlyMap<string, Shape>;
  readonly line: number;
}

/**
 * Compiles what stands behind `as` or `holds`.
 *
 * @throws FormatError `recipe-invalid`
 */
export function compileKind(text: string, setting: KindSetting): FieldKind {
  return kindOf(parseExpression(text), text, setting);
}

/** The type alone, known before the formulas around it can be compiled. */
export function kindType(text: string, shapes: ReadonlyMap<string, Shape>): FieldType {
  return typeOf(parseExpression(text), shapes);
}

function typeOf(expression: Expression, shapes: ReadonlyMap<string, Shape>): FieldType {
  if (expression.kind === 'index') return { kind: 'list', of: typeOf(expression.of, shapes) };
  const name = expression.kind === 'name' || expression.kind === 'call' ? expression.name : '';
  const shape = shapes.get(name);
  if (shape !== undefined) return { kind: 'shape', shape };
  if (name === 'ascii' || name === 'text') return { kind: 'value', of: 'text' };
  return { kind: 'value', of: name === 'bytes' ? 'bytes' : 'number' };
}

function kindOf(expression: Expression, text: string, setting: KindSetting): FieldKind {
  if (expression.kind === 'index') return listKind(expression, text, setting);
  if (expression.kind === 'name') {
    const number = NUMBERS[expression.name];
    if (number !== undefined) return numberKind(expression.name, number, setting.little);
    const shape = setting.shapes.get(expression.name);
    if (shape !== undefined) return shapeKind(shape);
  }
  if (expression.kind === 'call') {
    const { args } = expression;
    if (expression.name === 'ascii' && args.length === 1) return textKind(text, args[0]!, 'ascii', setting);
    if (expression.name === 'bytes' && args.length === 1) return bytesKind(text, args[0]!, setting);
    if (expression.name === 'text' && args.length === 2) {
      const encoding = args[1]!.kind === 'name' ? args[1]!.name : '';
      if ((ENCODINGS as readonly string[]).includes(encoding))
        return textKind(text, args[0]!, encoding as Encoding, setting);
      throw invalid(`there is no encoding ${encoding || 'like that'}`, `one of ${ENCODINGS.join(', ')}`, setting);
    }
  }
  const known = [...Object.keys(NUMBERS), 'ascii(n)', 'text(length, encoding)', 'bytes(n)', ...setting.shapes.keys()];
  throw invalid(`there is no kind ${text}`, `one of ${known.join(', ')}, or one of these with [count]`, setting);
}

function invalid(what: string, expected: string, setting: KindSetting): FormatError {
  return new FormatError({ code: 'recipe-invalid', line: setting.line, what, expected });
}

interface NumberFacts {
  readonly size: number;
  readonly store: NumberStore | 'wide';
  readonly low: number | bigint;
  readonly high: number | bigint;
  read(cursor: Cursor, little: boolean): number | bigint;
  write(writer: ByteWriter, value: number, little: boolean): void;
}

const whole = (bits: number, signed: boolean): Pick<NumberFacts, 'low' | 'high'> => ({
  low: signed ? -(2n ** BigInt(bits - 1)) : 0n,
  high: signed ? 2n ** BigInt(bits - 1) - 1n : 2n ** BigInt(bits) - 1n,
});
const real = { low: -Infinity, high: Infinity };

const NUMBERS: Readonly<Record<string, NumberFacts>> = {
  u8: { size: 1, store: 'u8', ...whole(8, false), read: (c) => c.u8(), write: (w, v) => w.u8(v) },
  i8: { size: 1, store: 'i8', ...whole(8, true), read: (c) => c.i8(), write: (w, v) => w.u8(v) },
  u16: { size: 2, store: 'u16', ...whole(16, false), read: (c, l) => c.u16(l), write: (w, v, l) => w.u16(v, l) },
  i16: { size: 2, store: 'i16', ...whole(16, true), read: (c, l) => c.i16(l), write: (w, v, l) => w.u16(v, l) },
  u32: { size: 4, store: 'u32', ...whole(32, false), read: (c, l) => c.u32(l), write: (w, v, l) => w.u32(v, l) },
  i32: { size: 4, store: 'i32', ...whole(32, true), read: (c, l) => c.i32(l), write: (w, v, l) => w.u32(v, l) },
  u64: { size: 8, store: 'wide', ...whole(64, false), read: (c, l) => c.u64(l), write: (w, v, l) => w.u64(v, l) },
  i64: { size: 8, store: 'wide', ...whole(64, true), read: (c, l) => c.i64(l), write: (w, v, l) => w.u64(v, l) },
  f32: { size: 4, store: 'f32', ...real, read: (c, l) => c.f32(l), write: (w, v, l) => w.f32(v, l) },
  f64: { size: 8, store: 'f64', ...real, read: (c, l) => c.f64(l), write: (w, v, l) => w.f64(v, l) },
};

function numberKind(name: string, facts: NumberFacts, little: boolean): FieldKind {
  const { size, read, low, high, store } = facts;
  return {
    text: name,
    fixedSize: size,
    minSize: size,
    type: { kind: 'value', of: 'number' },
    makeColumn: () => (store === 'wide' ? new WideColumn(low !== 0n) : new NumberColumn(store)),
    read: (cursor, column) => (column as WideColumn).push(read(cursor, little)),
    write: (writer, value) => {
      const number = typeof value === 'boolean' ? Number(value) : value;
      if (!isNumeric(number) || number < low || number > high) {
        throw new FormatError({
          code: 'layout-impossible',
          what: `the value does not fit ${name}`,
          expected: `${low.toLocaleString('en')} to ${high.toLocaleString('en')}`,
          found: showValue(value),
          hint: 'The format has no room for this many or this much.',
        });
      }
      facts.write(writer, number as number, little);
    },
  };
}

/** Where the length of a text or byte string comes from. */
type LengthRule =
  | { readonly kind: 'fixed'; readonly length: Formula }
  | { readonly kind: 'prefix'; readonly number: NumberFacts; readonly name: string }
  | { readonly kind: 'zero' };

function textKind(text: string, length: Expression, encoding: Encoding, setting: KindSetting): FieldKind {
  const codec = textCodec(encoding, setting.little);
  const rule = lengthRule(length, text, setting);
  const constant = rule.kind === 'fixed' && length.kind === 'number' ? Number(length.value) : undefined;
  const { little } = setting;
  const trims = rule.kind === 'fixed';
  const decode = (stretch: Uint8Array) => codec.decode(trims ? withoutTrailingZeros(stretch, codec.unit) : stretch);
  return {
    text,
    fixedSize: constant,
    minSize: constant ?? (rule.kind === 'prefix' ? rule.number.size : rule.kind === 'zero' ? codec.unit : 0),
    type: { kind: 'value', of: 'text' },
    makeColumn: () => new StretchColumn(decode),
    read: (cursor, column, context) => {
      let size: number;
      if (rule.kind === 'zero') size = untilZero(cursor, codec.unit);
      else if (rule.kind === 'prefix') size = Number(rule.number.read(cursor, little)) * codec.unit;
      else size = constant ?? wholeNumber(rule.length.evaluate(context.scope), 'the length of the text');
      if (size > context.limits.maxTextBytes) {
        throw new LimitError({
          code: 'limit-reached',
          what: 'a text is too long',
          offset: cursor.offset,
          found: `${size.toLocaleString('en')} bytes`,
          limit: `bytes of one text, ${context.limits.maxTextBytes.toLocaleString('en')}`,
        });
      }
      const start = cursor.advance(size);
      (column as StretchColumn).push(cursor.bytes, start, size);
      if (rule.kind === 'zero') cursor.advance(codec.unit);
    },
    write: (writer, value, scope) => {
      const bytes = value instanceof Uint8Array ? value : codec.encode(textValue(value));
      if (rule.kind === 'prefix') {
        const units = bytes.length / codec.unit;
        if (units > rule.number.high) throw tooLong(`${units} units`, `at most ${rule.number.high}`, value);
        rule.number.write(writer, units, little);
        writer.put(bytes);
      } else if (rule.kind === 'zero') {
        writer.put(bytes);
        writer.fill(codec.unit, 0);
      } else putFixed(writer, bytes, wholeNumber(rule.length.evaluate(scope), 'the length of the text'), value);
    },
  };
}

function bytesKind(text: string, length: Expression, setting: KindSetting): FieldKind {
  const rule = lengthRule(length, text, setting);
  if (rule.kind !== 'fixed') throw invalid(`${text} needs a number of bytes`, 'bytes(16) or bytes(field)', setting);
  const constant = length.kind === 'number' ? Number(length.value) : undefined;
  return {
    text,
    fixedSize: constant,
    minSize: constant ?? 0,
    type: { kind: 'value', of: 'bytes' },
    makeColumn: () => new StretchColumn((stretch) => stretch),
    read: (cursor, column, context) => {
      const size = constant ?? wholeNumber(rule.length.evaluate(context.scope), 'the number of bytes');
      (column as StretchColumn).push(cursor.bytes, cursor.advance(size), size);
    },
    write: (writer, value, scope) => {
      const size = constant ?? wholeNumber(rule.length.evaluate(scope), 'the number of bytes');
      if (value === 0) return writer.fill(size, 0);
      if (!(value instanceof Uint8Array)) throw tooLong(showValue(value), `${size} bytes`, value);
      putFixed(writer, value, size, value);
    },
  };
}

function lengthRule(length: Expression, text: string, setting: KindSetting): LengthRule {
  if (length.kind === 'name') {
    const number = NUMBERS[length.name];
    if (number !== undefined) {
      if (!['u8', 'u16', 'u32'].includes(length.name))
        throw invalid(`${length.name} cannot count a text`, 'u8, u16 or u32', setting);
      return { kind: 'prefix', number, name: length.name };
    }
    if (length.name === 'zero') return { kind: 'zero' };
  }
  const inner = text.slice(text.indexOf('(') + 1, text.lastIndexOf(')'));
  const formula = inner.includes(',') ? inner.slice(0, inner.lastIndexOf(',')) : inner;
  return { kind: 'fixed', length: compileFormula(formula.trim(), setting.line, setting.names) };
}

function putFixed(writer: ByteWriter, bytes: Uint8Array, size: number, value: Value): void {
  if (bytes.length > size) throw tooLong(`${bytes.length} bytes`, `at most ${size} bytes`, value);
  writer.put(bytes);
  writer.fill(size - bytes.length, 0);
}

function tooLong(found: string, expected: string, value: Value): FormatError {
  return new FormatError({
    code: 'layout-impossible',
    what: `${showValue(value)} does not fit its field`,
    expected,
    found,
  });
}

function textValue(value: Value): string {
  if (typeof value === 'string') return value;
  // Absent values of a new row are empty texts.
  if (value === undefined || value === 0) return '';
  throw new FormatError({ code: 'layout-impossible', what: 'the value is not a text', found: showValue(value) });
}

function withoutTrailingZeros(stretch: Uint8Array, unit: number): Uint8Array {
  let end = stretch.length;
  while (end >= unit && stretch.subarray(end - unit, end).every((byte) => byte === 0)) end -= unit;
  return stretch.subarray(0, end);
}

function untilZero(cursor: Cursor, unit: number): number {
  const { bytes, position } = cursor;
  for (let at = position; at + unit <= bytes.length; at += unit) {
    if (bytes[at] === 0 && (unit === 1 || bytes[at + 1] === 0)) return at - position;
  }
  // Asking for more than there is makes the right fault, or fetches more of the file.
  cursor.advance(cursor.left + 1);
  return 0;
}

function shapeKind(shape: Shape): FieldKind {
  return {
    text: shape.name,
    get fixedSize() {
      return shape.fixedSize;
    },
    get minSize() {
      return shape.minSize;
    },
    type: { kind: 'shape', shape },
    makeColumn: () => new ShapeColumn(shape),
    read: (cursor, column, context) => {
      const shapes = column as ShapeColumn;
      shapes.push();
      readRow(shape, shapes.table, cursor, context);
    },
    write: (writer, value, scope) => writeRow(shape, value as Fields, writer, scope),
  };
}

function listKind(expression: Expression & { kind: 'index' }, text: string, setting: KindSetting): FieldKind {
  const itemText = text.slice(0, text.lastIndexOf('[')).trim();
  const item = kindOf(expression.of, itemText, setting);
  if (expression.at === undefined) throw invalid(`${text} says no count`, `${itemText}[count]`, setting);
  const count = compileFormula(
    text.slice(text.lastIndexOf('[') + 1, text.lastIndexOf(']')),
    setting.line,
    setting.names,
  );
  return {
    text,
    fixedSize: undefined,
    minSize: 0,
    type: { kind: 'list', of: item.type },
    makeColumn: () => new ListColumn(item.makeColumn()),
    read: (cursor, column, context) => {
      const list = column as ListColumn;
      const rows = wholeNumber(count.evaluate(context.scope), `the count of ${text}`);
      checkCount(rows, item, text, cursor, context);
      if (context.beyond > 0 && rows * item.minSize > cursor.left) {
        // More of the region must be fetched: said before room for all rows is made in vain.
        context.needed = cursor.position + rows * item.minSize;
        cursor.advance(cursor.left + 1);
      }
      list.items.reserve(Math.min(rows, 1 << 22));
      list.push(rows);
      for (let row = 0; row < rows; row++) item.read(cursor, list.items, context);
    },
    write: (writer, value, scope) => {
      const list = value as ListValue;
      for (let row = 0; row < list.length; row++) item.write(writer, list.at(row), scope);
    },
  };
}

/** A count that the rest of the region cannot hold is refused before a single row is read. */
function checkCount(rows: number, item: FieldKind, text: string, cursor: Cursor, context: ReadContext): void {
  const left = cursor.left + context.beyond;
  if (rows * Math.max(item.minSize, 1) > left && rows > 0) {
    throw new FormatError({
      code: 'cut-short',
      what: `${text} counts more rows than there is room for`,
      offset: cursor.offset,
      expected: `at most ${Math.floor(left / Math.max(item.minSize, 1)).toLocaleString('en')} rows in the ${left.toLocaleString('en')} bytes left`,
      found: `${rows.toLocaleString('en')} rows`,
      hint: 'The count may be damaged, or read from the wrong field.',
    });
  }
  if (rows > context.limits.maxRows) {
    throw new LimitError({
      code: 'limit-reached',
      what: `${text} has too many rows`,
      offset: cursor.offset,
      found: rows.toLocaleString('en'),
      limit: `rows of one archive, ${context.limits.maxRows.toLocaleString('en')}`,
    });
  }
}
