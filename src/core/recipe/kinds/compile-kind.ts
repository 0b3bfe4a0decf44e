/** What is behind `as` and `holds`, compiled. */
import { formulaOf } from '../formula/compile-formula';
import { ANY, BYTES, NUMBER, TEXT, type Names } from '../formula/names';
import { parseExpression, type Expression } from '../language/expression';
import type { FieldKind, FieldType, Formula, Shape } from '../model';
import { bytesKind, dataKind, padKind } from './byte-kinds';
import { listKind, type Extent } from './list-kind';
import { numberKind, NUMBERS } from './number-kinds';
import { invalidKind, type KindSetting } from './setting';
import { shapeKind } from './shape-kinds';
import { digitsKind, varintKind, VARINT_NAMES } from './stretch-kinds';
import { textKind } from './text-kinds';
import { poolKind } from './pool-kind';
import { CLOCK_NAMES, timeKind } from './time-kinds';

export interface KindsSetting {
  readonly numbers: KindSetting['numbers'];
  readonly names: Names;
  readonly shapes: ReadonlyMap<string, Shape>;
  readonly line: number;
}

/** Kinds that are called with something in brackets, as the reference lists them. */
const CALLED = [
  'ascii(n)',
  'text(length, encoding)',
  'bytes(n)',
  'data(n)',
  'digits(n, base)',
  'bits(n)',
  'pool(zero, encoding)',
  'pad(n)',
  'time(clock)',
];

/** Names of all kinds, for messages and completion. */
export function kindNames(): string[] {
  return [...Object.keys(NUMBERS), ...VARINT_NAMES, ...CALLED];
}

/**
 * Compiles a kind.
 *
 * @throws FormatError `recipe-invalid` with what would be known there
 */
export function compileKind(text: string, setting: KindsSetting): FieldKind {
  const needs = new Set<number>();
  const noted = (formula: Formula): Formula => {
    for (const region of formula.uses.regions) needs.add(region);
    return formula;
  };
  const inner: KindSetting = {
    ...setting,
    formula: (expression, source) => noted(formulaOf(expression, source, setting.line, setting.names)),
    kind: (part) => {
      const kind = compileKind(part, setting);
      for (const region of kind.needs ?? []) needs.add(region);
      return kind;
    },
  };
  const kind = kindOf(text, inner, noted);
  return needs.size === 0 ? kind : Object.defineProperty(kind, 'needs', { value: [...needs], enumerable: true });
}

function kindOf(text: string, setting: KindSetting, noted: (formula: Formula) => Formula): FieldKind {
  const list = splitList(text);
  if (list === undefined) return plainKind(parsed(text), text, setting);
  const item = setting.kind(list.item);
  return listKind(text, item, extentOf(list.extent, item.type, setting, noted));
}

/** The type alone, known before the formulas around it can be compiled. */
export function kindType(text: string, shapes: ReadonlyMap<string, Shape>): FieldType {
  const list = splitList(text);
  if (list !== undefined) return { kind: 'list', of: kindType(list.item, shapes) };
  const expression = parsed(text);
  const name = expression.kind === 'name' || expression.kind === 'call' ? expression.name : '';
  const shape = shapes.get(name);
  if (shape !== undefined) return { kind: 'shape', shape };
  switch (name) {
    case 'ascii':
    case 'text':
      return TEXT;
    case 'bytes':
    case 'pad':
      return BYTES;
    case 'pool':
      return { kind: 'pool' };
    case 'data':
      return { kind: 'data', rest: false };
    default:
      return Object.hasOwn(NUMBERS, name) || VARINT_NAMES.includes(name) || ['digits', 'bits', 'time'].includes(name)
        ? NUMBER
        : ANY;
  }
}

function parsed(text: string): Expression {
  return parseExpression(text);
}

/** `row[head.count]` in two: what is repeated, and how often. */
function splitList(text: string): { item: string; extent: string } | undefined {
  const trimmed = text.trim();
  if (!trimmed.endsWith(']')) return undefined;
  let open = 0;
  for (let i = trimmed.length - 1; i >= 0; i--) {
    if (trimmed[i] === ']') open++;
    else if (trimmed[i] === '[' && --open === 0)
      return { item: trimmed.slice(0, i).trim(), extent: trimmed.slice(i + 1, -1).trim() };
  }
  return undefined;
}

function extentOf(text: string, item: FieldType, setting: KindSetting, noted: (formula: Formula) => Formula): Extent {
  if (text === '')
    throw invalidKind(
      'a list says no count',
      'row[head.count], row[in SIZE], row[until CONDITION], row[while CONDITION] or row[to end]',
      setting,
    );
  if (/^to\s+end$/.test(text)) return { kind: 'end' };
  const [, word, rest] = /^(in|until|while)\s+(.+)$/.exec(text) ?? [];
  if (word === 'in') return { kind: 'size', size: setting.formula(parsed(rest!), rest!) };
  if (word !== undefined) {
    const names = { ...setting.names, item };
    const condition = noted(formulaOf(parsed(rest!), rest!, setting.line, names));
    return word === 'until' ? { kind: 'until', last: condition } : { kind: 'while', belongs: condition };
  }
  return { kind: 'count', count: setting.formula(parsed(text), text) };
}

function plainKind(expression: Expression, text: string, setting: KindSetting): FieldKind {
  if (expression.kind === 'name') {
    const { name } = expression;
    if (Object.hasOwn(NUMBERS, name)) return numberKind(name, NUMBERS[name]!, setting);
    if (VARINT_NAMES.includes(name)) return varintKind(name);
    const shape = setting.shapes.get(name);
    if (shape !== undefined) return shapeKind(shape);
  }
  if (expression.kind === 'call') {
    const kind = calledKind(expression, text, setting);
    if (kind !== undefined) return kind;
  }
  throw invalidKind(
    `there is no kind ${text}`,
    `one of ${[...kindNames(), ...setting.shapes.keys()].join(', ')}, or one of these with [count]`,
    setting,
  );
}

function calledKind(call: Expression & { kind: 'call' }, text: string, setting: KindSetting): FieldKind | undefined {
  const { name, args } = call;
  const [first, second] = args;
  const need = (count: number, example: string) => {
    if (args.length !== count) throw invalidKind(`${name} is given ${args.length} values`, example, setting);
  };
  switch (name) {
    case 'ascii':
    case 'text':
      return textKind(text, call, setting);
    case 'pool':
      return poolKind(text, call, setting);
    case 'bytes':
      need(1, 'bytes(16), bytes(field) or bytes(rest)');
      return bytesKind(text, first!, setting);
    case 'data':
      need(1, 'data(field) or data(rest)');
      return dataKind(text, first!, setting);
    case 'pad':
      return padKind(text, call, setting);
    case 'digits': {
      need(2, 'digits(12, 8)');
      const base = second!.kind === 'number' ? Number(second!.value) : 0;
      if (base < 2 || base > 36) throw invalidKind('digits have a base from 2 to 36', 'digits(12, 8)', setting);
      const length = first!.kind === 'number' ? String(first!.value) : text;
      return digitsKind(text, { ...setting.formula(first!, text), text: length }, base);
    }
    case 'bits': {
      const bits = first?.kind === 'number' ? Number(first.value) : 0;
      const facts = NUMBERS[`u${bits}`];
      if (facts === undefined)
        throw invalidKind(
          `${text} is no number of whole bytes`,
          'bits(8), bits(16), bits(24), bits(32), bits(64)',
          setting,
        );
      return numberKind(text, facts, setting);
    }
    case 'time': {
      const clock = first?.kind === 'name' ? first.name : '';
      if (!CLOCK_NAMES.includes(clock))
        throw invalidKind(`there is no clock ${clock}`, `one of ${CLOCK_NAMES.join(', ')}`, setting);
      return timeKind(clock, setting);
    }
    default:
      return undefined;
  }
}
