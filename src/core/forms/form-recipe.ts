import { bufferSource } from '../bytes';
import { matches, type Recipe } from '../recipe';

/**
 * The recipe whose signature an entry has.
 *
 * @param recipes of forms, such as of pictures; those without a signature are skipped
 * @param head the first bytes of the entry
 */
export async function formRecipe(
  recipes: Iterable<Recipe>,
  head: Uint8Array,
  path: string,
): Promise<Recipe | undefined> {
  for (const recipe of recipes)
    if (recipe.match.length > 0 && (await matches(recipe, bufferSource(head, path)))) return recipe;
  return undefined;
}
