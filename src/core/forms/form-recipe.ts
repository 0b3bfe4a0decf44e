import { bufferSource } from '../bytes';
import { FaultError } from '../faults';
import { hasSignature } from '../game';
import { matches, openTables, type OpenedArchive, type Recipe } from '../recipe';
import { pictureHeadFits } from './picture/recipe-picture';

/** What the first bytes must be beyond their fields, by the form that a recipe presents. */
const HEADS: Partial<Record<Recipe['presents'], (file: OpenedArchive) => Promise<boolean>>> = {
  picture: pictureHeadFits,
};

/**
 * The recipe of the form an entry has: by its signature, or by its path and its first fields.
 *
 * @param recipes of forms, such as of pictures; those with neither a signature nor paths are skipped
 * @param head the first bytes of the entry
 */
export async function formRecipe(
  recipes: Iterable<Recipe>,
  head: Uint8Array,
  path: string,
): Promise<Recipe | undefined> {
  // What its first bytes say counts for more than its path: the built-in readers are for that.
  const isSigned = hasSignature(head);
  for (const recipe of recipes) {
    if (recipe.isFor?.(path) === false || (isSigned && recipe.match.length === 0)) continue;
    const fits =
      recipe.match.length > 0 ? await matches(recipe, bufferSource(head, path)) : await fitsHead(recipe, head);
    if (fits) return recipe;
  }
  return undefined;
}

/** Whether the fields of an entry without a signature are what they must be, as far as they lie in its first bytes. */
async function fitsHead(recipe: Recipe, head: Uint8Array): Promise<boolean> {
  if (recipe.isFor === undefined) return false;
  try {
    const file = await openTables(recipe, bufferSource(head));
    return (await HEADS[recipe.presents]?.(file)) ?? true;
  } catch (error) {
    if (error instanceof FaultError) return false;
    throw error;
  }
}
