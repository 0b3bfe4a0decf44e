/** The recipes that ship, and the revisions people have saved over them or next to them. */
import { join } from 'node:path';
import { QueryTypes, type Transaction } from 'sequelize';
import { FaultError, sayFault, type Fault } from '../../core/faults';
import { compileRecipe, type Recipe } from '../../core/recipe';
import { loadRecipes } from '../../core/recipe/node';
import { database } from '../database';
import { onePerProcess } from '../one-per-process';
import { env } from '../env';
import { oncePerRequest } from '../request-cache';
import type { RecipeAnswer } from '../shapes';
import { checkedText, checkTexts } from './thread';

interface SavedRow {
  readonly recipe: string;
  /** Games that it is for. */
  readonly games: readonly number[];
  /** It is used in every game, and not only in those. */
  readonly everywhere: boolean;
  readonly revision: number;
  readonly text: string;
  readonly created_at: Date;
}

/** Compiled once for each process. */
function shippedRecipes(): Promise<Recipe[]> {
  return onePerProcess('recipes', () => loadRecipes(join(env().checkout, 'recipes')));
}

async function savedRows(): Promise<SavedRow[]> {
  return database().query<SavedRow>(
    `select r.*, array(select game_id from recipe_games g where g.recipe = r.recipe order by game_id) as games
     from recipes r order by recipe, revision desc`,
    { type: QueryTypes.SELECT },
  );
}

/**
 * The recipes of a game in their newest revisions; a saved one represents the one that ships under its id. Left out are those
 * that were saved in another game alone, and those of forms that belong to an engine of which the game has no archive.
 */
export async function knownRecipes(gameId: number): Promise<Recipe[]> {
  const { recipes, counts } = await recipesIn(gameId);
  return recipes.filter(counts);
}

/**
 * The recipes that a folder is scanned with, before it is known which engine it is of: a signature is enough for those of forms,
 * a path is not.
 */
export async function scannedRecipes(gameId: number): Promise<Recipe[]> {
  const { recipes, counts } = await recipesIn(gameId);
  return recipes.filter((recipe) => counts(recipe) || recipe.match.length > 0);
}

/** Tells what recipes say of forms from what they said before: what was made by another revision is made again. */
export async function formsStamp(gameId: number): Promise<string> {
  const forms = (await knownRecipes(gameId)).filter((recipe) => !isOfArchives(recipe));
  return forms.map(({ id, revision }) => `${id}@${revision}`).join();
}

/** The recipes that an archive of the game was opened by, those of forms of its engine, and those that were saved in the game. */
export async function recipesUsedIn(gameId: number): Promise<Recipe[]> {
  const { recipes, opened, own, collections } = await recipesIn(gameId);
  return recipes.filter(
    (recipe) =>
      opened.has(recipe.id) ||
      own.has(recipe.id) ||
      (!isOfArchives(recipe) && recipe.collection !== undefined && collections.has(recipe.collection)),
  );
}

const recipesIn = (gameId: number) => oncePerRequest(`recipes ${gameId}`, () => findRecipesIn(gameId));

async function findRecipesIn(gameId: number) {
  const [{ recipes, own }, opened] = await Promise.all([recipeShelf(gameId), recipesOfArchives(gameId)]);
  const collections = new Set(recipes.flatMap(({ id, collection }) => (opened.has(id) ? (collection ?? []) : [])));
  const counts = (recipe: Recipe): boolean =>
    isOfArchives(recipe) ||
    recipe.collection === undefined ||
    own.has(recipe.id) ||
    collections.has(recipe.collection);
  return { recipes, own, opened, collections, counts };
}

const isOfArchives = ({ presents }: Recipe): boolean => presents === 'archive' || presents === 'folder';

/** Recipes that archives of a game were opened by. */
async function recipesOfArchives(gameId: number): Promise<ReadonlySet<string>> {
  const rows = await database().query<{ recipe: string }>(
    'select distinct recipe from archives where game_id = :gameId and recipe is not null',
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  return new Set(rows.map(({ recipe }) => recipe));
}

interface Shelf {
  readonly recipes: Recipe[];
  /** Those that were saved in the game itself. */
  readonly own: ReadonlySet<string>;
  /** The newest revisions that do not compile, by the id of their recipe. */
  readonly broken: ReadonlyMap<string, { readonly row: SavedRow; readonly fault: Fault }>;
}

/**
 * A revision that does not compile, because it was kept by another version of the language, is reported and not used: the
 * newest one before it that does replaces it. One person's recipe must not keep everybody's archives shut.
 *
 * @param gameId those that count in a game; undefined for all there are
 */
async function recipeShelf(gameId?: number): Promise<Shelf> {
  const compiled = onePerProcess('compiled', () => new Map<string, Recipe | Fault>());
  const recipes = new Map((await shippedRecipes()).map((recipe) => [recipe.id, recipe]));
  const broken = new Map<string, { row: SavedRow; fault: Fault }>();
  const settled = new Set<string>();
  const rows = (await savedRows()).filter(
    (row) => gameId === undefined || row.everywhere || row.games.includes(gameId),
  );
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
  const own = new Set(rows.flatMap((row) => (gameId !== undefined && row.games.includes(gameId) ? [row.recipe] : [])));
  return { recipes: [...recipes.values()].sort((a, b) => (a.title < b.title ? -1 : 1)), own, broken };
}

export async function listRecipes(): Promise<RecipeAnswer[]> {
  const shipped = new Map((await shippedRecipes()).map((recipe) => [recipe.id, recipe]));
  const rows = await savedRows();
  const { recipes, broken } = await recipeShelf();
  const usable = recipes.map(({ id, title, revision, collection = null, needs, text }) => ({
    ...{ id, title, revision, collection, text, needs: Object.fromEntries(needs) },
    fault: null,
  }));
  const faulty = [...broken].map(([id, { row, fault }]) => ({
    ...{ id, title: recipes.find((recipe) => recipe.id === id)?.title ?? id, revision: row.revision, text: row.text },
    collection: null,
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
      scope: own[0] === undefined ? null : { games: own[0].games, everywhere: own[0].everywhere },
      revisions: [
        ...own.map((row) => ({ revision: row.revision, text: row.text, savedAt: row.created_at.toISOString() })),
        ...(original === undefined ? [] : [{ revision: original.revision, text: original.text, savedAt: null }]),
      ],
    };
  });
}

/** Where a saved recipe counts. */
export interface RecipeScope {
  /** A game that it is for. */
  readonly game?: number | undefined;
  /** It counts in every game. */
  readonly everywhere: boolean;
}

/**
 * Keeps a revision of a recipe.
 *
 * @throws FaultError `conflict` when the text does not state a newer revision, and what compiling it throws
 */
export async function saveRecipe(
  text: string,
  { game, everywhere }: RecipeScope = { everywhere: true },
): Promise<{ id: string; revision: number }> {
  const { id, revision } = await checkedText(text);
  const known = (await listRecipes()).find((recipe) => recipe.id === id);
  if (known !== undefined && known.revision >= revision)
    throw new FaultError({
      code: 'conflict',
      what: `there is a revision ${known.revision} of ${id} already`,
      expected: `revision: ${known.revision + 1}`,
      found: `revision: ${revision}`,
    });
  await database().transaction(async (transaction) => {
    await database().query(
      'insert into recipes (recipe, revision, text, everywhere) values (:id, :revision, :text, :everywhere)',
      { replacements: { id, revision, text, everywhere }, transaction },
    );
    if (game !== undefined) await useInGame(id, game, transaction);
  });
  return { id, revision };
}

/** A saved recipe counts in one game more. */
export async function useInGame(recipe: string, game: number, transaction?: Transaction): Promise<void> {
  await database().query('insert into recipe_games (recipe, game_id) values (:recipe, :game) on conflict do nothing', {
    replacements: { recipe, game },
    ...(transaction === undefined ? {} : { transaction }),
  });
}
