/** Formulas that say the same wherever an entry lies. */
import type { Formula, Shape } from '../../model';

/** Facts that stay the same as long as the entry's own bytes and name do. */
const STEADY_FACTS = new Set([
  'path',
  'name',
  'folder',
  'stored',
  'size',
  'method',
  'time',
  'deleted',
  'hash',
  'id',
  'block-count',
  'block',
  'row',
]);

const known = new WeakMap<Formula, boolean>();

/** True when a formula says the same as long as the entry's own bytes and name do. */
export function isSteady(formula: Formula, shape: Shape): boolean {
  let steady = known.get(formula);
  if (steady === undefined) known.set(formula, (steady = staysSteady(formula, shape, new Set())));
  return steady;
}

function staysSteady(formula: Formula, shape: Shape, seen: Set<number>): boolean {
  const { uses } = formula;
  if (uses.layout || uses.elsewhere || uses.late || uses.regionBytes.size > 0) return false;
  for (const fact of uses.entry) if (!STEADY_FACTS.has(fact)) return false;
  for (const index of uses.siblings) {
    if (seen.has(index)) continue;
    seen.add(index);
    const field = shape.fields[index]!;
    if (field.is !== undefined && !staysSteady(field.is, shape, seen)) return false;
  }
  return true;
}
