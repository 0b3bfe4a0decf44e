/** Recipes that present what an entry holds, such as a picture. */
import { bufferSource } from '../../core/bytes';
import type { Kind } from '../../core/game';
import { matches, type Recipe } from '../../core/recipe';
import { knownRecipes } from './recipe-service';

async function pictureRecipes(): Promise<Recipe[]> {
  return (await knownRecipes()).filter(({ picture }) => picture !== undefined);
}

/** The recipe whose signature the first bytes of an entry have. */
export async function pictureRecipeOf(head: Uint8Array, name: string): Promise<Recipe | undefined> {
  for (const recipe of await pictureRecipes())
    if (recipe.match.length > 0 && (await matches(recipe, bufferSource(head, name)))) return recipe;
  return undefined;
}

/** What entries are by the ending that a recipe gives their main file: `{stem}.tex` makes pictures of all `.tex`. */
export async function kindsByEnding(): Promise<ReadonlyMap<string, Kind>> {
  const kinds = new Map<string, Kind>();
  for (const { volumes } of await pictureRecipes()) {
    const ending = /\.(\w+)$/.exec(volumes[0]!.pattern)?.[1];
    if (ending !== undefined) kinds.set(ending.toLowerCase(), 'picture');
  }
  return kinds;
}
