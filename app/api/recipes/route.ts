import { requireGame } from '../../../src/server/games';
import { route } from '../../../src/server/http';
import { listRecipes, saveRecipe } from '../../../src/server/recipes';

export const GET = route('GET recipes', async () => listRecipes());

export const POST = route('POST recipes', async ({ body: { text, game, everywhere = game === undefined } }) => {
  if (game !== undefined) await requireGame(game);
  return saveRecipe(text, { game, everywhere });
});
