/** A shape inside a shape, one of several kinds, and numbers with names for their values. */
import { FormatError } from '../../faults';
import { type Fields, type Scope, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { FieldKind, Formula, Shape } from '../model';
import { ChoiceColumn, ShapeColumn, type Column } from '../read/columns';
import { readRow, readRowFlow } from '../read/read-row';
import { writeRow } from '../write/rendering/write-row';

export function shapeKind(shape: Shape): FieldKind {
  return {
    text: shape.name,
    get fixedSize() {
      return shape.fixedSize;
    },
    get minSize() {
      return shape.minSize;
    },
    get flows() {
      return shape.flows;
    },
    shapes: [shape],
    type: { kind: 'shape', shape },
    makeColumn: (tables) => new ShapeColumn(tables.of(shape)),
    read: (cursor, column, row, context) => {
      const { table } = column as ShapeColumn;
      (column as ShapeColumn).put(row, readRow(shape, table, cursor, context));
    },
    readFlow: async (flow, column, row, context) => {
      const { table } = column as ShapeColumn;
      (column as ShapeColumn).put(row, await readRowFlow(shape, table, flow, context));
    },
    write: (writer, value, scope) => writeRow(shape, value as Fields, writer, scope),
  };
}

export interface Alternative {
  /** The value that chooses it; undefined for `else`. */
  readonly key: string | undefined;
  readonly kind: FieldKind;
}

/** `by:` with `as: { VALUE: kind, else: kind }`. */
export function choiceKind(by: Formula, alternatives: readonly Alternative[]): FieldKind {
  const keys = new Map(alternatives.flatMap(({ key }, i) => (key === undefined ? [] : [[normal(key), i] as const])));
  const otherwise = alternatives.findIndex(({ key }) => key === undefined);
  const choose = (scope: Scope): number => {
    const value = by.evaluate(scope);
    // Most values are named as they are; only others are looked at for another way to write the same number.
    const index =
      (typeof value === 'string' ? keys.get(value) : undefined) ?? keys.get(normal(keyText(value))) ?? otherwise;
    if (index >= 0) return index;
    throw new FormatError({
      code: 'must-differs',
      what: `no kind is given for this value of ${by.text}`,
      expected: `one of ${[...keys.keys()].join(', ')}`,
      found: showValue(value),
      hint: 'Add it, or `else`.',
    });
  };
  const kinds = alternatives.map(({ kind }) => kind);
  return {
    text: `one of ${kinds.map((kind) => kind.text).join(', ')}`,
    fixedSize: undefined,
    get minSize() {
      return Math.min(...kinds.map((kind) => kind.minSize));
    },
    get flows() {
      return kinds.some((kind) => kind.flows);
    },
    shapes: kinds.flatMap((kind) => kind.shapes ?? []),
    alternatives: kinds,
    chosen: (scope) => kinds[choose(scope)]!,
    type: { kind: 'any' },
    makeColumn: (tables) => new ChoiceColumn(kinds.map((kind) => kind.makeColumn(tables))),
    read: (cursor, column, row, context) => {
      const index = choose(context.scope);
      kinds[index]!.read(cursor, (column as ChoiceColumn).choose(row, index), row, context);
    },
    readFlow: async (flow, column, row, context) => {
      const index = choose(context.scope);
      const kind = kinds[index]!;
      const chosen = (column as ChoiceColumn).choose(row, index);
      if (kind.flows) await kind.readFlow!(flow, chosen, row, context);
      else await flow.small(kind, chosen, row, context);
    },
    write: (writer, value, scope) => kinds[choose(scope)]!.write(writer, value, scope),
  };
}

function keyText(value: Value): string {
  if (value instanceof Uint8Array) return Buffer.from(value).toString('hex');
  return typeof value === 'boolean' ? String(Number(value)) : String(value);
}

/** `0x10` and `16` choose the same. */
function normal(key: string): string {
  return /^(0x[0-9a-f]+|\d+)$/i.test(key) ? String(BigInt(key)) : key;
}

/** A number whose values have names; a value without one stays a number. */
export function namedValues(kind: FieldKind, values: Readonly<Record<string, string>>): FieldKind {
  const names = new Map(Object.entries(values).map(([key, name]) => [normal(key), name]));
  const numbers = new Map([...names].map(([key, name]) => [name, numberOf(key)]));
  const byNumber = nameFinder([...names].map(([key, name]) => [Number(key), name]));
  return {
    ...kind,
    type: { kind: 'value', of: 'text' },
    names: [...names.values()],
    makeColumn: (tables) => namedColumn(kind.makeColumn(tables), names, byNumber),
    read: (cursor, column, row, context) => kind.read(cursor, (column as NamedColumn).inner, row, context),
    write: (writer, value, scope) =>
      kind.write(writer, typeof value === 'string' ? (numbers.get(value) ?? value) : value, scope),
  };
}

function numberOf(key: string): Value {
  const number = Number(key);
  if (!/^\d+$/.test(key) || Number.isSafeInteger(number)) return number;
  return BigInt(key);
}

/** The name of a number. A map hashes large numbers slowly: a few are compared one by one. */
function nameFinder(names: readonly (readonly [number, string])[]): (value: number) => string | undefined {
  if (names.length > FEW_NAMES) {
    const map = new Map(names);
    return (value) => map.get(value);
  }
  const numbers = Float64Array.from(names, ([number]) => number);
  return (value) => {
    for (let i = 0; i < numbers.length; i++) if (numbers[i] === value) return names[i]![1];
    return undefined;
  };
}
const FEW_NAMES = 16;

interface NamedColumn extends Column {
  readonly inner: Column;
}

function namedColumn(
  inner: Column,
  names: ReadonlyMap<string, string>,
  byNumber: (value: number) => string | undefined,
): NamedColumn {
  return {
    inner,
    reserve: (rows) => inner.reserve(rows),
    putAbsent: (row) => inner.putAbsent(row),
    get: (row) => {
      const value = inner.get(row);
      if (value === undefined) return undefined;
      return (typeof value === 'number' ? byNumber(value) : names.get(String(value))) ?? value;
    },
    kept: (row) => inner.kept(row),
  };
}
