/** Recipes that present what an entry holds, such as a picture. */
import { formRecipe } from '../../core/forms';
import type { Kind } from '../../core/game';
import { companionPaths, type Recipe } from '../../core/recipe';
import { knownRecipes } from './recipe-service';

/** What an entry may be presented as, and the kind that makes it. */
const FORMS = { picture: 'picture', mesh: 'mesh', clip: 'mesh', records: 'records', font: 'font', sound: 'sound' } as const satisfies Record<string, Kind>;

export type RecipeForm = keyof typeof FORMS;

const formOf = ({ presents }: Recipe): RecipeForm | undefined => (presents in FORMS ? (presents as RecipeForm) : undefined);

/** Whether a recipe presents what an entry holds, and not an archive. */
export const presentsForm = (recipe: Recipe): boolean => formOf(recipe) !== undefined;

async function formRecipes(gameId: number, ...forms: readonly RecipeForm[]): Promise<Recipe[]> {
  return (await knownRecipes(gameId)).filter((recipe) => forms.includes(formOf(recipe)!));
}

/** The recipe of one of some forms whose signature the first bytes of an entry have. */
export async function formRecipeOf(
  gameId: number,
  head: Uint8Array,
  name: string,
  ...forms: readonly RecipeForm[]
): Promise<Recipe | undefined> {
  return formRecipe(await formRecipes(gameId, ...forms), head, name);
}

/** What a file is by a recipe of a form; undefined when no recipe presents it. */
export async function kindByRecipe(path: string, head: Uint8Array, recipes: readonly Recipe[]): Promise<Kind | undefined> {
  const recipe = await formRecipe(recipes.filter(presentsForm), head, path);
  return recipe === undefined ? undefined : FORMS[formOf(recipe)!];
}

/** Endings that recipes of a form give their main file, such as `clip`. */
export async function endingsOf(gameId: number, form: RecipeForm): Promise<ReadonlySet<string>> {
  return new Set((await formRecipes(gameId, form)).flatMap((recipe) => endingOf(recipe) ?? []));
}

const endingOf = ({ volumes }: Recipe): string | undefined =>
  /\.(\w+)$/.exec(volumes[0]?.pattern ?? '')?.[1]?.toLowerCase();

/** What entries are by the ending that a recipe gives their main file: `{stem}.tex` makes pictures of all `.tex`. */
export async function kindsByEnding(gameId: number): Promise<ReadonlyMap<string, Kind>> {
  const kinds = new Map<string, Kind>();
  for (const recipe of await formRecipes(gameId, ...(Object.keys(FORMS) as RecipeForm[]))) {
    const ending = endingOf(recipe);
    if (ending !== undefined) kinds.set(ending, FORMS[formOf(recipe)!]);
  }
  return kinds;
}

/** Paths of entries that hold parts of the pictures among some paths, as the recipes of their endings name them. */
export async function partsOfPictures(gameId: number, paths: readonly string[]): Promise<ReadonlySet<string>> {
  const parts = new Set<string>();
  for (const recipe of await formRecipes(gameId, 'picture')) {
    const ending = endingOf(recipe);
    if (ending === undefined || recipe.volumes.length === 1) continue;
    for (const path of paths)
      if (path.toLowerCase().endsWith(`.${ending}`))
        for (const part of companionPaths(recipe, path)) parts.add(part);
  }
  return parts;
}
