import { FOUND_RECIPE } from '../../core/carve';
import { rowsAreFixed, type Recipe } from '../../core/recipe';

/** Whether an entry can be removed: not where it is the whole file, a file of a folder, or was found in other bytes. */
export function mayLose(recipe: Recipe): boolean {
  return recipe.id !== FOUND_RECIPE && recipe.presents === 'archive' && !rowsAreFixed(recipe);
}
