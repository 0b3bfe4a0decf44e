import { route } from '../../../src/server/http';
import { listRecipes, saveRecipe } from '../../../src/server/recipes';

export const GET = route('GET recipes', async () => listRecipes());

export const POST = route('POST recipes', async ({ body }) => saveRecipe(body.text, { game: body.game, everywhere: body.everywhere ?? body.game === undefined }));
