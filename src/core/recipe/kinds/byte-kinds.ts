/** Byte strings, the data of entries, and padding. */
import { FormatError, hexBytes } from '../../faults';
import { isStretch, type Value } from '../formula/value';
import { showValue, wholeNumber } from '../formula/show-value';
import type { Expression } from '../language/expression';
import type { FieldKind, Formula } from '../model';
import { DataColumn, FAR_BYTES, StretchColumn } from '../read/columns';
import { invalidKind, type KindSetting } from './setting';
import { sizeFor } from './size-for';

/** A number of bytes: constant, from a formula, or all that are left. */
interface ByteCount {
  readonly constant: number | undefined;
  readonly formula: Formula | undefined;
}

function byteCount(length: Expression, text: string, setting: KindSetting): ByteCount {
  if (length.kind === 'number') return { constant: Number(length.value), formula: undefined };
  if (length.kind === 'name' && length.name === 'rest') return { constant: undefined, formula: undefined };
  return { constant: undefined, formula: setting.formula(length, text) };
}

export function bytesKind(text: string, length: Expression, setting: KindSetting): FieldKind {
  const { constant, formula } = byteCount(length, text, setting);
  const sizeOf = (scope: Parameters<Formula['evaluate']>[0], rest: number) =>
    constant ?? (formula === undefined ? rest : wholeNumber(formula.evaluate(scope), 'the number of bytes'));
  return {
    text,
    fixedSize: constant,
    minSize: constant ?? 0,
    flows: constant === undefined || constant > FAR_BYTES,
    type: { kind: 'value', of: 'bytes' },
    makeColumn: () => new StretchColumn((stretch) => stretch),
    read: (cursor, column, row, context) => {
      const size = sizeOf(context.scope, cursor.left);
      (column as StretchColumn).put(row, cursor.bytes, cursor.advance(size), size);
    },
    readFlow: async (flow, column, row, context) => {
      const size = sizeOf(context.scope, flow.end - flow.position);
      if (size > FAR_BYTES) {
        (column as StretchColumn).putFar(row, { stretch: true, at: flow.position, length: size });
        flow.skip(size);
      } else await flow.small(FIXED_BYTES(size), column, row, context);
    },
    write: (writer, value, scope) => {
      if (isStretch(value)) return writer.splice({ length: value.length, from: value.at });
      const given = value instanceof Uint8Array ? value.length : 0;
      const size =
        constant === undefined && formula === undefined ? undefined : sizeFor(given, constant, formula!, scope);
      if (value === undefined || value === 0) return writer.fill(size ?? 0, 0);
      if (!(value instanceof Uint8Array)) throw tooLong(showValue(value), `${size ?? 'some'} bytes`, value);
      if (size !== undefined && value.length > size)
        throw tooLong(`${value.length} bytes`, `at most ${size} bytes`, value);
      writer.put(value);
      writer.fill((size ?? value.length) - value.length, 0);
    },
  };
}

/** A fixed number of bytes, into the same column. */
function FIXED_BYTES(size: number): FieldKind {
  return {
    text: `bytes(${size})`,
    fixedSize: size,
    minSize: size,
    flows: false,
    type: { kind: 'value', of: 'bytes' },
    makeColumn: () => new StretchColumn((stretch) => stretch),
    read: (cursor, column, row) => (column as StretchColumn).put(row, cursor.bytes, cursor.advance(size), size),
    write: () => {},
  };
}

/** `data(n)`: the stored bytes of the entry whose row this is; never read into memory with the row. */
export function dataKind(text: string, length: Expression, setting: KindSetting): FieldKind {
  const { constant, formula } = byteCount(length, text, setting);
  const sizeOf = (scope: Parameters<Formula['evaluate']>[0], rest: number) =>
    constant ?? (formula === undefined ? rest : wholeNumber(formula.evaluate(scope), 'the number of bytes of data'));
  return {
    text,
    fixedSize: undefined,
    minSize: constant ?? 0,
    flows: true,
    type: { kind: 'data', rest: constant === undefined && formula === undefined },
    makeColumn: () => new DataColumn(),
    read: (cursor, column, row, context) => {
      const size = sizeOf(context.scope, cursor.left);
      (column as DataColumn).put(row, cursor.offset, size);
      cursor.advance(size);
    },
    readFlow: async (flow, column, row, context) => {
      const size = sizeOf(context.scope, flow.end - flow.position);
      (column as DataColumn).put(row, flow.position, size);
      flow.skip(size);
    },
    write: (writer, value, scope) => {
      if (value === undefined) return;
      if (!isStretch(value)) throw tooLong(showValue(value), 'the bytes of an entry', value);
      const { length: bytes, at } = value;
      const out = (value as { out?: number }).out;
      if (out !== undefined && !scope.unsized) {
        const held = constant ?? (formula === undefined ? bytes : Number(formula.evaluate(scope)));
        if (held !== bytes) {
          if (scope.unfitCount === undefined) throw tooLong(inBytes(bytes), inBytes(held), value);
          scope.unfitCount++;
          (scope.notHeld ??= new Set()).add(out);
        }
      }
      writer.splice(out === undefined ? { length: bytes, from: at } : { length: bytes, out });
    },
  };
}

const inBytes = (size: number) => `${size.toLocaleString('en')} bytes`;

function tooLong(found: string, expected: string, value: Value): FormatError {
  return new FormatError({
    code: 'layout-impossible',
    what: `${showValue(value)} does not fit its field`,
    expected,
    found,
  });
}

/**
 * `pad(n, fill)`: up to the next multiple of n, counted from the start of the file or of the unlocked region. With
 * `rest: any` other bytes in it are no fault.
 */
export function padKind(text: string, call: Expression & { kind: 'call' }, setting: KindSetting): FieldKind {
  const { args, named } = call;
  const [step, fill] = args;
  const { rest } = named;
  const isStrict = rest === undefined;
  const isRest = isStrict || (rest.kind === 'name' && rest.name === 'any');
  if (
    step?.kind !== 'number' ||
    step.value < 1 ||
    (fill !== undefined && fill.kind !== 'number') ||
    Object.keys(named).some((name) => name !== 'rest') ||
    !isRest
  )
    throw invalidKind(`${text} is not padding`, 'pad(16), pad(16, 0xFF) or pad(16, rest: any)', setting);
  const by = Number(step.value);
  const byte = fill === undefined ? 0 : Number((fill as { value: number }).value);
  const missing = (position: number) => (by - (position % by)) % by;
  return {
    text,
    fixedSize: by === 1 ? 0 : undefined,
    minSize: 0,
    flows: false,
    type: { kind: 'value', of: 'bytes' },
    makeColumn: () => new StretchColumn((stretch) => stretch),
    read: (cursor, column, row, context) => {
      const size = missing(cursor.offset);
      // At the very end of a file the last padding is often left out.
      if (cursor.left === 0 && context.beyond === 0 && size > 0)
        return (column as StretchColumn).putFar(row, { stretch: true, at: cursor.offset, length: 0 });
      const from = cursor.advance(size);
      for (let at = from; at < from + size; at++)
        if (isStrict && cursor.bytes[at] !== byte)
          context.remark ??= {
            what: 'the padding holds other bytes',
            expected: hexBytes(Uint8Array.of(byte)),
            found: hexBytes(cursor.bytes.subarray(from, from + size), 8),
          };
      (column as StretchColumn).put(row, cursor.bytes, from, size);
    },
    write: (writer, value) => {
      if (isStretch(value)) return;
      const size = missing(writer.position);
      if (value instanceof Uint8Array && value.length === size) writer.put(value);
      else writer.fill(size, byte);
    },
  };
}
