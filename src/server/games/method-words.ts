import type { Archive, Recipe } from '../../core/recipe';

/** How an entry is packed, in words. */
export function methodWords(recipe: Recipe, method: ReturnType<Archive['entries']['method']>): string {
  const steps = recipe.entries.stepsOf(method);
  if (steps === undefined) return `unknown (${String(method)})`;
  return steps.length === 0 ? 'stored as it is' : steps.map(({ codec }) => codec.name).join(', ');
}
