/** Turns checked expressions into closures; every name is resolved once, here, or is an error with its line. */
import { FormatError } from '../../faults';
import { parseExpression, type Expression } from '../language/expression';
import type { Formula, Uses } from '../model';
import { bitsOf } from './bits';
import { applyOperator, arithmetic } from './arithmetic';
import { invalid, namesForContent, type Compile } from './call-targets';
import { compileCall } from './calls';
import { ANY, NUMBER, noUses, TEXT, type Names, type Piece, type SharedLets } from './names';
import { isFields, isList, isPool, truthy, type Scope, type Value, sameValue } from './value';
import { showValue, wholeNumber } from './show-value';
import { compileEntry, compileBlock, compileVolume, compileFolder } from './fact-names';
import { compileName, refuseHidden } from './compile-name';
import { withLets, singleProperty } from './lets';

/**
 * Compiles a formula.
 *
 * @throws FormatError `recipe-invalid` with the line, what is wrong, and what would be known there
 */
export function compileFormula(text: string, line: number, names: Names): Formula {
  const uses = noUses();
  try {
    return formulaOf(parseExpression(text), text, line, names, uses);
  } catch (error) {
    throw error instanceof FormatError ? error.with({ line }) : error;
  }
}

/** The same from an expression that has been parsed already. */
export function formulaOf(
  expression: Expression,
  text: string,
  line: number,
  names: Names,
  uses: Uses = noUses(),
): Formula {
  const shared: SharedLets = { pieces: new Map(), repeated: false };
  const piece = compile(expression, { ...names, shared }, uses);
  return { text, line, uses, evaluate: withLets(piece.evaluate, shared), ...singleProperty(expression, names) };
}

export function compile(expression: Expression, names: Names, uses: Uses): Piece {
  const within: Compile = (inner, inside = names, used = uses) => compile(inner, inside, used);
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
      return compileName(expression.name, names, uses, within);
    case 'member':
      return compileMember(expression, names, uses);
    case 'index':
      return compileIndex(expression, names, uses);
    case 'call':
      return compileCall(expression, names, uses, within);
    case 'unary': {
      const of = compile(expression.of, names, uses);
      if (expression.operator === 'not') return { type: NUMBER, evaluate: (scope) => !truthy(of.evaluate(scope)) };
      return { type: NUMBER, evaluate: (scope) => arithmetic('-', 0, of.evaluate(scope)) };
    }
    case 'binary':
      return compileBinary(expression, names, uses);
    case 'range':
      throw invalid('a range has no value', 'a range only in `must` and `bytes(first..last)`');
    default:
      return expression satisfies never;
  }
}

function compileBinary(expression: Expression & { kind: 'binary' }, names: Names, uses: Uses): Piece {
  const left = compile(expression.left, names, uses);
  const right = compile(expression.right, names, uses);
  const { operator } = expression;
  const type = operator === '+' ? (left.type.kind === 'value' ? left.type : right.type) : NUMBER;
  // `and` and `or` look at the right side only when they must: it may make no sense otherwise.
  if (operator === 'and')
    return { type, evaluate: (scope) => truthy(left.evaluate(scope)) && truthy(right.evaluate(scope)) };
  if (operator === 'or')
    return { type, evaluate: (scope) => truthy(left.evaluate(scope)) || truthy(right.evaluate(scope)) };
  // Most conditions compare for equality, once for each field of each row: they come without a further choice.
  if (operator === '==') return { type, evaluate: (scope) => sameValue(left.evaluate(scope), right.evaluate(scope)) };
  if (operator === '!=') return { type, evaluate: (scope) => !sameValue(left.evaluate(scope), right.evaluate(scope)) };
  return { type, evaluate: (scope) => applyOperator(operator, left.evaluate(scope), right.evaluate(scope)) };
}

function compileMember(expression: Expression & { kind: 'member' }, names: Names, uses: Uses): Piece {
  const { of: from, name } = expression;
  // A field or a row of that name comes first.
  const isTaken =
    from.kind === 'name' &&
    ((names.shape?.indexOf(from.name) ?? -1) >= 0 || names.rows.some((row) => row.name === from.name));
  if (from.kind === 'name') refuseHidden(from.name, names);
  if (from.kind === 'name' && !isTaken) {
    if (from.name === 'entry' || from.name === 'previous') return compileEntry(from.name, name, names, uses);
    if (from.name === 'block') return compileBlock(name, names, uses);
    if (from.name === 'volume') return compileVolume(name, uses);
    if (from.name === 'folder') return compileFolder(name, names, uses);
  }
  if (from.kind === 'name' && from.name === 'outer' && name === 'outer') {
    uses.elsewhere = true;
    return { type: ANY, evaluate: (scope) => scope.outer.at(-2) };
  }
  const of = compile(from, names, uses);
  const { type } = of;
  if (type.kind === 'value' && type.parts !== undefined) {
    const part = type.parts.get(name);
    if (part === undefined) throw invalid(`there is no part ${name}`, `one of ${[...type.parts.keys()].join(', ')}`);
    const { shift, width } = part;
    return {
      type: NUMBER,
      evaluate: (scope) => {
        const value = of.evaluate(scope);
        return value === undefined ? undefined : bitsOf(value, shift, width);
      },
    };
  }
  if (type.kind === 'any') {
    names.askedNames.add(name);
    return dynamicMember(of, name);
  }
  if (type.kind !== 'shape') throw invalid(`.${name} needs a shape before the dot`);
  const { shape } = type;
  const index = shape.indexOf(name);
  if (index < 0) {
    throw invalid(
      `shape ${shape.name} has no field ${name}`,
      `one of ${shape.fields.map((field) => field.name).join(', ')}`,
    );
  }
  shape.fields[index]!.asked = true;
  uses.fields.push({ shape, index });
  return {
    get type() {
      return shape.fields[index]!.kind.type;
    },
    evaluate: (scope) => (of.evaluate(scope) as { get(index: number): Value } | undefined)?.get(index),
  };
}

/** A field whose shape depends on the file, or bits of such a field; one that is not there is nothing. */
function dynamicMember(of: Piece, name: string): Piece {
  return {
    type: ANY,
    evaluate: (scope) => {
      const value = of.evaluate(scope);
      if (isFields(value)) {
        const index = value.shape.indexOf(name);
        return index < 0 ? undefined : value.get(index);
      }
      const part = value === undefined ? undefined : of.partsOf?.(scope)?.get(name);
      return part === undefined ? undefined : bitsOf(value, part.shift, part.width);
    },
    partsOf: (scope) => {
      const value = of.evaluate(scope);
      if (!isFields(value)) return undefined;
      const type = value.shape.fields[value.shape.indexOf(name)]?.kind.type;
      return type?.kind === 'value' ? type.parts : undefined;
    },
  };
}

function compileIndex(expression: Expression & { kind: 'index' }, names: Names, uses: Uses): Piece {
  if (expression.at === undefined) throw invalid('an index is missing', 'name[number]');
  const at = compile(expression.at, names, uses);
  if (expression.of.kind === 'name' && names.volumes?.has(expression.of.name)) {
    const set = expression.of.name;
    return { type: TEXT, evaluate: (scope) => `${set}[${wholeNumber(at.evaluate(scope), 'the number of a volume')}]` };
  }
  const of = compile(expression.of, namesForContent(expression.of, names), uses);
  const { type } = of;
  if (type.kind === 'pool') {
    return {
      type: TEXT,
      evaluate: (scope) => {
        const pool = of.evaluate(scope);
        const index = wholeNumber(at.evaluate(scope), 'the index');
        return isPool(pool) ? pool.text(index) : undefined;
      },
    };
  }
  if (type.kind !== 'list' && type.kind !== 'any') throw invalid('only a repeated field has items', 'name[number]');
  return {
    type: type.kind === 'list' ? type.of : ANY,
    evaluate: (scope: Scope) => {
      const list = of.evaluate(scope);
      const index = wholeNumber(at.evaluate(scope), 'the index');
      if (isList(list) && index < list.length) return list.at(index);
      throw new FormatError({
        code: 'must-differs',
        what: 'an index is past the end of its list',
        expected: isList(list) ? `below ${list.length}` : 'a list',
        found: isList(list) ? String(index) : showValue(list),
      });
    },
  };
}
