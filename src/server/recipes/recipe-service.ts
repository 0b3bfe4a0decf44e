/** The recipes that ship, and the revisions people have saved over them or next to them. */
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { FaultError, sayFault, type Fault } from '../../core/faults';
import { compileRecipe, type Recipe } from '../../core/recipe';
import { loadRecipes } from '../../core/recipe/node';
import { database } from '../database';
import { onePerProcess } from '../one-per-process';
import { env } from '../env';
import type { RecipeAnswer } from '../shapes';
import { checkedText, checkTexts } from './thread';

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

/** All recipes in their newest revisions; a saved one represents the one that ships under its id. */
export async function knownRecipes(): Promise<Recipe[]> {
  return (await recipeShelf()).recipes;
}

interface Shelf {
  readonly recipes: Recipe[];
  /** The newest revisions that do not compile, by the id of their recipe. */
  readonly broken: ReadonlyMap<string, { readonly row: SavedRow; readonly fault: Fault }>;
}

/**
 * A revision that does not compile, because it was kept by another version of the language, is reported and not used: the
 * newest one before it that does replaces it. One person's recipe must not keep everybody's archives shut.
 */
async function recipeShelf(): Promise<Shelf> {
  const compiled = onePerProcess('compiled', () => new Map<string, Recipe | Fault>());
  const recipes = new Map((await shippedRecipes()).map((recipe) => [recipe.id, recipe]));
  const broken = new Map<string, { row: SavedRow; fault: Fault }>();
  const settled = new Set<string>();
  const rows = await savedRows();
  const keyOf = (row: SavedRow) => `${row.recipe}:${row.revision}`;
  const unknown = rows.filter((row) => !compiled.has(keyOf(row)));
  // A thread that can be ended tries them first: what it could compile is no danger here.
  const checked = await checkTexts(unknown.map(({ text }) => text));
  for (const [i, row] of unknown.entries()) compiled.set(keyOf(row), checked[i]!.fault ?? compileRecipe(row.text));
  for (const row of rows) {
    if (settled.has(row.recipe)) continue;
    const known = compiled.get(keyOf(row))!;
    if ('code' in known) {
      if (!broken.has(row.recipe)) broken.set(row.recipe, { row, fault: known });
      continue;
    }
    settled.add(row.recipe);
    recipes.set(row.recipe, known);
  }
  return { recipes: [...recipes.values()].sort((a, b) => (a.title < b.title ? -1 : 1)), broken };
}

export async function listRecipes(): Promise<RecipeAnswer[]> {
  const shipped = new Map((await shippedRecipes()).map((recipe) => [recipe.id, recipe]));
  const rows = await savedRows();
  const { recipes, broken } = await recipeShelf();
  const usable = recipes.map(({ id, title, revision, needs, text }) => ({
    ...{ id, title, revision, text, needs: Object.fromEntries(needs) },
    fault: null,
  }));
  const faulty = [...broken].map(([id, { row, fault }]) => ({
    ...{ id, title: recipes.find((recipe) => recipe.id === id)?.title ?? id, revision: row.revision, text: row.text },
    needs: {},
    fault: { code: fault.code, sentence: sayFault(fault) },
  }));
  return [...usable.filter(({ id }) => !broken.has(id)), ...faulty].map((recipe) => {
    const { id } = recipe;
    const own = rows.filter((row) => row.recipe === id);
    const original = shipped.get(id);
    return {
      ...recipe,
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
  const { id, revision } = await checkedText(text);
  const known = (await listRecipes()).find((recipe) => recipe.id === id);
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
