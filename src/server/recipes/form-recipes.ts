/** Recipes that present what an entry holds, such as a picture. */
import { posix } from 'node:path';
import { bufferSource } from '../../core/bytes';
import type { Kind } from '../../core/game';
import { companionNames, matches, type Recipe } from '../../core/recipe';
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

/** Paths of entries that hold parts of the pictures among some paths, as the recipes of their endings name them. */
export async function partsOfPictures(paths: readonly string[]): Promise<ReadonlySet<string>> {
  const parts = new Set<string>();
  for (const recipe of await pictureRecipes()) {
    const ending = /\.(\w+)$/.exec(recipe.volumes[0]!.pattern)?.[0].toLowerCase();
    if (ending === undefined || recipe.volumes.length === 1) continue;
    for (const path of paths)
      if (path.toLowerCase().endsWith(ending))
        for (const name of companionNames(recipe, path)) parts.add(posix.join(posix.dirname(path), name));
  }
  return parts;
}
