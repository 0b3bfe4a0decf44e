/** What calls in formulas are about: fields, regions and volumes that are named and not worked out. */
import { FormatError } from '../../faults';
import type { Expression } from '../language/expression';
import type { Shape, Uses } from '../model';
import type { Names, Piece } from './names';
import { type Fields, type Scope } from './value';
import { wholeNumber } from './show-value';

export type Call = Expression & { kind: 'call' };
/** Compiles a part; `uses` are those of the whole formula when left out. */
export type Compile = (expression: Expression, names?: Names, uses?: Uses) => Piece;

export function invalid(what: string, expected?: string, hint?: string): FormatError {
  return new FormatError({
    code: 'recipe-invalid',
    what,
    ...(expected === undefined ? {} : { expected }),
    ...(hint === undefined ? {} : { hint }),
  });
}

/** A field named in a formula: the instance it belongs to, and its number there. */
export function fieldNamed(
  expression: Expression,
  names: Names,
  uses: Uses,
  compile: Compile,
): { of: (scope: Scope) => Fields | undefined; index: number } | undefined {
  if (expression.kind === 'name' && names.shape !== undefined) {
    const index = names.shape.indexOf(expression.name);
    if (index < 0) return undefined;
    mark(names.shape, index);
    return { of: (scope) => scope.fields, index };
  }
  if (expression.kind !== 'member') return undefined;
  const of = compile(expression.of);
  if (of.type.kind !== 'shape') return undefined;
  const index = of.type.shape.indexOf(expression.name);
  if (index < 0) throw invalid(`shape ${of.type.shape.name} has no field ${expression.name}`);
  mark(of.type.shape, index);
  uses.elsewhere = true;
  return { of: (scope) => of.evaluate(scope) as Fields | undefined, index };
}

/** Remembers that where a field lies is asked for. */
export function mark(shape: Shape, index: number): void {
  shape.fields[index]!.marked = true;
}

/** A region is meant where a name is also that of a mere number next to it: `count(names)` next to a field `names: u32`. */
export function namesForContent(of: Expression, names: Names): Names {
  if (of.kind !== 'name' || !names.regions.has(of.name)) return names;
  const type = names.shape?.fields[names.shape.indexOf(of.name)]?.kind.type;
  return type?.kind === 'value' && type.of === 'number' ? { ...names, shape: undefined } : names;
}

/** A name that is a region and a field: a mere number is not what is meant; anything else is not clear. */
export function isRegion(of: Expression, names: Names, call: string): boolean {
  if (of.kind !== 'name' || !names.regions.has(of.name)) return false;
  const index = names.shape?.indexOf(of.name) ?? -1;
  if (index < 0) return true;
  const { type } = names.shape!.fields[index]!.kind;
  if (type.kind === 'value' && type.of === 'number') return true;
  throw invalid(
    `${of.name} is a region and a field here`,
    `${call}(…) of a name that is only one of them`,
    'Rename the field or the region.',
  );
}

/** `volume(NAME)` or `volume(NAME, number)`: the place of a volume among the opened ones, -1 for one that is not there. */
export function volumeNamed(call: Call, names: Names, compile: Compile): (scope: Scope) => number {
  const [of, number] = call.args;
  const set = of?.kind === 'name' ? of.name : '';
  const isNumbered = names.volumeSets?.get(set);
  if (isNumbered === undefined)
    throw invalid(
      `there is no volume ${set || 'like that'}`,
      `one of ${[...(names.volumeSets?.keys() ?? [])].join(', ')}`,
    );
  if (isNumbered !== (number !== undefined) || call.args.length > 2)
    throw invalid(
      isNumbered ? `${set} is a numbered set of volumes` : `${set} is one volume`,
      isNumbered ? `volume(${set}, 0)` : `volume(${set})`,
    );
  const piece = number === undefined ? undefined : compile(number);
  return (scope) =>
    scope.file.volumeIndex(
      set,
      piece === undefined ? undefined : wholeNumber(piece.evaluate(scope), 'the number of a volume'),
    );
}

/** @throws FormatError `recipe-invalid` when this names no region */
export function regionNamed(expression: Expression, names: Names, call: string): number {
  const region = expression.kind === 'name' ? names.regions.get(expression.name) : undefined;
  if (region !== undefined) return region.index;
  const fields = names.shape?.fields.map((field) => field.name) ?? [];
  throw invalid(`${call} wants a region or a field`, `one of ${[...fields, ...names.regions.keys()].join(', ')}`);
}
