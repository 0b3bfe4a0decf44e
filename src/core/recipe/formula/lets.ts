/** Names that a recipe gives to formulas. */
import type { Expression } from '../language/expression';
import type { Uses } from '../model';
import { invalid, type Compile } from './call-targets';
import type { Names, Piece, SharedLets } from './names';

/** Remembers the values of `let` names while the formula is worked out: named twice at each step, forty would never end. */
export function withLets(evaluate: Piece['evaluate'], { repeated }: SharedLets): Piece['evaluate'] {
  if (!repeated) return evaluate;
  return (scope) => {
    const outer = scope.lets;
    scope.lets = new Map();
    try {
      return evaluate(scope);
    } finally {
      scope.lets = outer;
    }
  };
}

/** How deep names in `let` may build on one another. */
const MAX_LET_DEPTH = 32;

export function letPiece(name: string, of: Expression, names: Names, uses: Uses, compile: Compile): Piece {
  const { shared } = names;
  const known = shared?.pieces.get(name);
  if (known !== undefined) {
    shared!.repeated = true;
    return known;
  }
  const { letPath = [] } = names;
  if (letPath.length >= MAX_LET_DEPTH)
    throw invalid('names in let build on one another too deep', `at most ${MAX_LET_DEPTH} levels`);
  const inner = compile(of, { ...names, shape: undefined, letPath: [...letPath, name] }, uses);
  const piece: Piece = {
    type: inner.type,
    evaluate: (scope) => {
      // Formulas that name it once keep nothing: their values would outlast what they were worked out for.
      if (shared?.repeated !== true || scope.lets === undefined) return inner.evaluate(scope);
      if (scope.lets.has(piece)) return scope.lets.get(piece);
      const value = inner.evaluate(scope);
      scope.lets.set(piece, value);
      return value;
    },
  };
  shared?.pieces.set(name, piece);
  return piece;
}

export function singleProperty(expression: Expression, names: Names): { entryProperty?: string; rowField?: number } {
  if (expression.kind !== 'member' || expression.of.kind !== 'name') return {};
  if (expression.of.name === 'entry') return { entryProperty: expression.name };
  const [row] = names.rows;
  if (expression.of.name !== row?.name) return {};
  const index = row.shape.fields.findIndex((field) => field.name === expression.name);
  return index < 0 ? {} : { rowField: index };
}
