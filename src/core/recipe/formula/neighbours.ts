/** `before` and `after`: the nearest row of a list for which a condition holds. */
import { LimitError } from '../../faults';
import type { Expression } from '../language/expression';
import type { Names } from './names';
import { truthy, type Fields, type Scope, type Value } from './value';

/** A row of a table that was read: others can be asked for by their distance. */
interface PlacedRow extends Fields {
  readonly table: { readonly length: number };
  readonly row: number;
  neighbour(by: number): PlacedRow | undefined;
}

/** A row that is being written knows its neighbours, and not where it is. */
type AnyRow = Fields & { neighbour?(by: number): PlacedRow | undefined };

/** Rows that are looked at where the answer for one says nothing of the next. */
const MOST_LOOKED_AT = 4096;

/** What was found from a row on, itself included: the number of a row, or -1. */
interface Known {
  readonly length: number;
  readonly nearest: Map<number, number>;
}

/**
 * @param bound the place of the row among those in scope
 * @param test the condition
 * @param isOfRow whether it depends on the row alone: then each row is looked at once, and not once for each row behind it
 */
export function neighbourFinder(
  bound: number,
  step: 1 | -1,
  test: (scope: Scope) => Value,
  isOfRow: boolean,
): (scope: Scope) => Fields | undefined {
  const known = new WeakMap<object, Known>();
  const knownOf = ({ table }: PlacedRow): Map<number, number> | undefined => {
    if (!isOfRow) return undefined;
    const kept = known.get(table);
    // Rows behind this one may still be read; those before it are there.
    if (kept !== undefined && (step < 0 || kept.length === table.length)) return kept.nearest;
    const nearest = new Map<number, number>();
    known.set(table, { length: table.length, nearest });
    return nearest;
  };
  return (scope) => {
    if (scope.alone) return undefined;
    const { rows, lets } = scope;
    const first = (rows[bound] as AnyRow | undefined)?.neighbour?.(step);
    if (first === undefined) return undefined;
    const nearest = knownOf(first);
    const passed: number[] = [];
    let at: PlacedRow | undefined = first;
    let found = -1;
    try {
      for (; at !== undefined; at = at.neighbour(step)) {
        const answer = nearest?.get(at.row);
        if (answer !== undefined) {
          found = answer;
          break;
        }
        passed.push(at.row);
        if (nearest === undefined && passed.length > MOST_LOOKED_AT) throw tooFar();
        scope.rows = rows.with(bound, at);
        scope.lets = undefined;
        if (!truthy(test(scope))) continue;
        found = at.row;
        break;
      }
    } finally {
      scope.rows = rows;
      scope.lets = lets;
    }
    if (nearest !== undefined) for (const row of passed) nearest.set(row, found);
    return found < 0 ? undefined : found === first.row ? first : first.neighbour(found - first.row);
  };
}

function tooFar(): LimitError {
  return new LimitError({
    code: 'limit-reached',
    what: 'the neighbour is too far away',
    limit: `rows that are looked at, ${MOST_LOOKED_AT.toLocaleString('en')}`,
    hint: 'A condition that names nothing but the row has no such limit.',
  });
}

/** Whether a condition names nothing but a row, by itself or through names in `let`. */
export function namesOnly(row: string, condition: Expression, { lets }: Pick<Names, 'lets'>): boolean {
  const seen = new Set<string>();
  const isFine = (part: Expression): boolean => {
    switch (part.kind) {
      case 'number':
      case 'text':
        return true;
      case 'name': {
        if (part.name === row || seen.has(part.name)) return true;
        const inner = lets.get(part.name);
        if (inner === undefined) return false;
        seen.add(part.name);
        return isFine(inner);
      }
      case 'member':
        return isFine(part.of);
      case 'unary':
        return isFine(part.of);
      case 'binary':
        return isFine(part.left) && isFine(part.right);
      case 'call':
        return part.args.every(isFine);
      default:
        return false;
    }
  };
  return isFine(condition);
}
