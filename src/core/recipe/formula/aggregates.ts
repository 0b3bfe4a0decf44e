/** Numbers over many: how many entries or items there are for which something holds, their sum, the least, the greatest. */
import type { Expression } from '../language/expression';
import type { Uses } from '../model';
import { applyOperator, compareValues } from './arithmetic';
import { invalid, type Call, type Compile } from './call-targets';
import { ANY, NUMBER, noUses, type Names, type Piece } from './names';
import { isList, truthy, type Scope, type Value } from './value';

export const AGGREGATES = {
  sum: {
    call: 'sum(entries, entry.size)',
    about: 'the sum of a formula over all entries, or over the items of a list (with `item`)',
  },
  least: { call: 'least(list, item.at)', about: 'the least value of a formula over them; 0 when there are none' },
  greatest: { call: 'greatest(list, item.at)', about: 'the greatest; 0 when there are none' },
} as const;

/** Folds the values of one piece over what a list or the entries give. */
type Fold = (values: Iterable<Value>) => Value;

const FOLDS: Readonly<Record<'count' | keyof typeof AGGREGATES, Fold>> = {
  count: (values) => {
    let count = 0;
    for (const value of values) if (truthy(value)) count++;
    return count;
  },
  sum: (values) => {
    let sum: Value = 0;
    for (const value of values) if (value !== undefined) sum = applyOperator('+', sum, value);
    return sum;
  },
  least: (values) => chosen(values, -1),
  greatest: (values) => chosen(values, 1),
};

function chosen(values: Iterable<Value>, sign: 1 | -1): Value {
  let best: Value;
  for (const value of values)
    if (value !== undefined && (best === undefined || compareValues(value, best) * sign > 0)) best = value;
  return best ?? 0;
}

/** `count(what, condition)`, `sum(what, formula)`, `least(…)` and `greatest(…)`. */
export function aggregate(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  const fold = FOLDS[call.name as keyof typeof FOLDS];
  const [of, formula] = call.args;
  if (of === undefined || formula === undefined || call.args.length > 2 || Object.keys(call.named).length > 0)
    throw invalid(
      `${call.name} takes two values`,
      `${call.name}(entries, entry.size) or ${call.name}(list, item.size)`,
    );
  uses.layout = uses.place = true;
  const type = call.name === 'count' || call.name === 'sum' ? NUMBER : ANY;
  const values = isEntries(of, names)
    ? overEntries(formula, names, uses, compile)
    : overList(of, formula, names, compile);
  return { type, evaluate: (scope) => fold(values(scope)) };
}

/** A field of that name comes before the word. */
const isEntries = (of: Expression, names: Names) =>
  of.kind === 'name' && of.name === 'entries' && (names.shape?.indexOf('entries') ?? -1) < 0;

function overEntries(
  formula: Expression,
  names: Names,
  uses: Uses,
  compile: Compile,
): (scope: Scope) => Iterable<Value> {
  // What is asked of every entry is not asked of the entry whose row the formula may be in.
  const inner = noUses();
  const piece = compile(formula, { ...names, shape: undefined, rows: [], entry: true, own: undefined }, inner);
  if (inner.content.length > 0 || inner.entry.has('own') || inner.entry.has('previous'))
    throw invalid('hashes over the bytes of all entries are not known here', 'facts such as entry.size');
  for (const region of inner.regions) uses.regions.add(region);
  uses.elsewhere ||= inner.elsewhere;
  return function* (scope) {
    const outer = { entry: scope.entry, fields: scope.fields, index: scope.index, ownIndex: scope.ownIndex };
    const ownIndex = outer.ownIndex ?? outer.index;
    for (let i = 0; i < scope.file.entryCount(); i++) {
      Object.assign(scope, { entry: scope.file.entryFacts(i), fields: undefined, index: i, ownIndex });
      const value = piece.evaluate(scope);
      Object.assign(scope, outer);
      yield value;
    }
  };
}

function overList(
  of: Expression,
  formula: Expression,
  names: Names,
  compile: Compile,
): (scope: Scope) => Iterable<Value> {
  const list = compile(of);
  if (list.type.kind !== 'list' && list.type.kind !== 'any')
    throw invalid('what is counted or summed up is entries or a list', 'sum(rows, item.size)');
  const piece = compile(formula, { ...names, item: list.type.kind === 'list' ? list.type.of : ANY });
  return function* (scope) {
    const items = list.evaluate(scope);
    if (!isList(items)) return;
    const outer = { item: scope.item, index: scope.index, ownIndex: scope.ownIndex };
    const ownIndex = outer.ownIndex ?? outer.index;
    for (let i = 0; i < items.length; i++) {
      Object.assign(scope, { item: items.at(i), index: i, ownIndex });
      const value = piece.evaluate(scope);
      Object.assign(scope, outer);
      yield value;
    }
  };
}
