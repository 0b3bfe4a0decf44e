/** Which way of building a game reads. */
import { FOUND_RECIPE, LOOSE_RECIPE } from '../../core/carve';
import { ArchiveModel, type GameModel } from '../database';
import { profileOf } from '../games';
import { knownRecipes } from '../recipes';
import type { How } from '../shapes';

/**
 * What somebody chose for the game before, or else what the recipes of its archives say: a small archive where all are read
 * beside others, a rebuilt one where none is.
 *
 * @returns null where neither says
 */
export async function howRead(game: GameModel): Promise<How | null> {
  const { how } = profileOf(game);
  if (how !== undefined) return how;
  const rows = await ArchiveModel.findAll({
    where: { gameId: game.id, parentId: null },
    attributes: ['recipe'],
    group: ['recipe'],
  });
  const ids = new Set(rows.flatMap(({ recipe }) => recipe ?? []));
  const isFile = (id: string) => id === LOOSE_RECIPE || id === FOUND_RECIPE;
  const recipes = (await knownRecipes(game.id)).filter(({ id }) => ids.has(id));
  const alone = recipes.flatMap((recipe) => (recipe.presents === 'archive' ? [recipe.alone] : [true]));
  if ([...ids].some(isFile)) alone.push(true);
  if (alone.length > 0 && alone.every((one) => one === true)) return 'keep';
  return alone.includes(undefined) || alone.length === 0 ? null : 'patch';
}
