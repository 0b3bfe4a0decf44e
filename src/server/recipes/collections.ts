/** Recipes that are passed on together: those that one game uses, and what becomes of others' in it. */
import { sayFault } from '../../core/faults';
import type { CollectionAnswer, CollectionTaken, RecipeAnswer } from '../shapes';
import { listRecipes, recipesUsedIn, saveRecipe, useInGame, type RecipeScope } from './recipe-service';
import { checkTexts } from './thread';

export async function exportCollection(gameId: number): Promise<CollectionAnswer> {
  const used = await recipesUsedIn(gameId);
  return { recipes: used.map(({ id, revision, text }) => ({ id, revision, text })) };
}

/**
 * Saves the recipes of a collection. What does not compile, and what is not newer than the own one, is left out, with the
 * reason; of what is there already nothing is said.
 */
export async function importCollection(texts: readonly string[], scope: RecipeScope): Promise<CollectionTaken> {
  const checked = await checkTexts(texts);
  const known = new Map((await listRecipes()).map((recipe) => [recipe.id, recipe]));
  const seen = new Set<string>();
  const saved: string[] = [];
  const leftOut: { id: string; reason: string }[] = [];
  for (const [i, text] of texts.entries()) {
    const facts = checked[i]!;
    if (facts.fault !== undefined) {
      leftOut.push({ id: nameOf(text, i), reason: sayFault(facts.fault) });
      continue;
    }
    if (seen.has(facts.id)) {
      leftOut.push({ id: facts.id, reason: 'the collection has another recipe of that name' });
      continue;
    }
    seen.add(facts.id);
    const own = known.get(facts.id);
    if (own?.text === text) {
      if (countsIn(own, scope)) continue;
      await useInGame(own.id, scope.game!);
      saved.push(own.id);
      continue;
    }
    const reason = reasonToKeep(own, facts.revision);
    if (reason === undefined) saved.push((await saveRecipe(text, scope)).id);
    else leftOut.push({ id: facts.id, reason });
  }
  return { saved, leftOut };
}

/** Whether a recipe that is there counts already where it is brought in. */
const countsIn = ({ scope: own }: RecipeAnswer, { game }: RecipeScope): boolean =>
  own === null || own.everywhere || game === undefined || own.games.includes(game);

function reasonToKeep(own: RecipeAnswer | undefined, revision: number): string | undefined {
  if (own === undefined || own.revision < revision) return undefined;
  return own.revision === revision
    ? `its revision ${revision} differs from yours, which is kept`
    : `yours is newer: revision ${own.revision} instead of ${revision}`;
}

const nameOf = (text: string, i: number): string => /^recipe:\s*(\S+)/m.exec(text)?.[1] ?? `recipe ${i + 1}`;
