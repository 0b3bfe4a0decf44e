/** Which layers of an entry's stored bytes follow from where it lies, and must be made again when it moves. */
import type { EntriesRule, Formula, Recipe, Shape, Step } from '../../model';

/** Facts of an entry that say where it is. */
const PLACES = new Set(['at', 'end', 'index', 'volume', 'volume-set', 'folder-index', 'first-block', 'previous']);

/** True when a formula may say something else once things have moved. */
export function isPlaceBound(formula: Formula, shape?: Shape, seen = new Set<Formula>()): boolean {
  if (seen.has(formula)) return false;
  seen.add(formula);
  const { uses } = formula;
  if (uses.place || uses.regionBytes.size > 0 || [...uses.entry].some((fact) => PLACES.has(fact))) return true;
  const named = [...uses.fields, ...(shape === undefined ? [] : [...uses.siblings].map((index) => ({ shape, index })))];
  return named.some((one) => {
    const { is } = one.shape.fields[one.index]!;
    return is !== undefined && isPlaceBound(is, one.shape, seen);
  });
}

function followsPlace({ params }: Step): boolean {
  return Object.values(params).some((formula) => isPlaceBound(formula));
}

/** A chain in two: steps up to the last that follows the place of the entry, and those under it, which never do. */
export interface SplitChain {
  readonly outer: readonly Step[];
  readonly inner: readonly Step[];
}

export function splitChain(steps: readonly Step[]): SplitChain {
  const outer = steps.findLastIndex(followsPlace) + 1;
  return { outer: steps.slice(0, outer), inner: steps.slice(outer) };
}

const known = new WeakMap<Recipe, boolean>();

/** True when the stored bytes of entries may follow from where they lie. */
export function bytesFollowPlace(recipe: Recipe): boolean {
  let bound = known.get(recipe);
  if (bound === undefined) {
    const { entries: rule } = recipe;
    bound = chainsFollowPlace(rule) || wrapFollowsPlace(rule);
    known.set(recipe, bound);
  }
  return bound;
}

export function chainsFollowPlace(rule: EntriesRule): boolean {
  const steps = rule.methods.flatMap((method) => rule.stepsOf(method) ?? []);
  return [...steps, ...(rule.blocks?.through ?? [])].some(followsPlace);
}

export function wrapFollowsPlace({ wrap }: EntriesRule): boolean {
  return (
    wrap?.fields.some(({ is, parts }) =>
      [is, ...parts.map((part) => part.is)].some((formula) => formula !== undefined && isPlaceBound(formula, wrap)),
    ) === true
  );
}
