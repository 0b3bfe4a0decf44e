import { chooseRecipe } from '../../../../../../../src/server/games';
import { route } from '../../../../../../../src/server/http';

/** Says which of several fitting recipes a file is read with, and reads it. */
export const PUT = route('PUT games/{game}/archives/{archive}/recipe', async ({ params, body }) =>
  chooseRecipe(params.game, params.archive, body.recipe),
);
