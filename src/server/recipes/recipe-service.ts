/** The recipes that ship, and the revisions people have saved over them or beside them. */
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import { compileRecipe, type Recipe } from '../../core/recipe';
import { loadRecipes } from '../../core/recipe/node';
import { database, onePerProcess } from '../database';
import { env } from '../env';
import type { RecipeAnswer } from '../shapes';

interface SavedRow {
  readonly recipe: string;
  readonly revision: number;
  readonly text: string;
  readonly created_at: Date;
}

/** Compiled once for each process. */
function shippedRecipes(): Promise<Recipe[]> {
  return onePerProcess('recipes', () => loadRecipes(join(env().checkout, 'recipes')));
}

async function savedRows(): Promise<SavedRow[]> {
  return database().query<SavedRow>('select * from recipes order by recipe, revision desc', { type: QueryTypes.SELECT });
}

/** All recipes in their newest revisions; a saved one stands for the one that ships under its id. */
export async function knownRecipes(): Promise<Recipe[]> {
  const compiled = onePerProcess('compiled', () => new Map<string, Recipe>());
  const recipes = new Map((await shippedRecipes()).map((recipe) => [recipe.id, recipe]));
  const seen = new Set<string>();
  for (const { recipe, revision, text } of await savedRows()) {
    if (seen.has(recipe)) continue;
    seen.add(recipe);
    const key = `${recipe}:${revision}`;
    if (!compiled.has(key)) compiled.set(key, compileRecipe(text));
    recipes.set(recipe, compiled.get(key)!);
  }
  return [...recipes.values()].sort((a, b) => (a.title < b.title ? -1 : 1));
}

export async function listRecipes(): Promise<RecipeAnswer[]> {
  const shipped = new Map((await shippedRecipes()).map((recipe) => [recipe.id, recipe]));
  const rows = await savedRows();
  return (await knownRecipes()).map(({ id, title, revision, needs, text }) => {
    const own = rows.filter((row) => row.recipe === id);
    const original = shipped.get(id);
    return {
      id,
      title,
      revision,
      needs: Object.fromEntries(needs),
      text,
      shipped: own.length === 0,
      revisions: [
        ...own.map((row) => ({ revision: row.revision, text: row.text, savedAt: row.created_at.toISOString() })),
        ...(original === undefined ? [] : [{ revision: original.revision, text: original.text, savedAt: null }]),
      ],
    };
  });
}

/**
 * Keeps a revision of a recipe.
 *
 * @throws FaultError `conflict` when the text does not state a newer revision, and what compiling it throws
 */
export async function saveRecipe(text: string): Promise<{ id: string; revision: number }> {
  const { id, revision } = compileRecipe(text);
  const known = (await knownRecipes()).find((recipe) => recipe.id === id);
  if (known !== undefined && known.revision >= revision)
    throw new FaultError({
      code: 'conflict',
      what: `there is a revision ${known.revision} of ${id} already`,
      expected: `revision: ${known.revision + 1}`,
      found: `revision: ${revision}`,
    });
  await database().query('insert into recipes (recipe, revision, text) values (:id, :revision, :text)', {
    replacements: { id, revision, text },
  });
  return { id, revision };
}
