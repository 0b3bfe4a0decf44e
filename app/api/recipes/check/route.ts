import { route } from '../../../../src/server/http';
import { checkRecipe } from '../../../../src/server/recipes';

export const POST = route('POST recipes/check', async ({ body }) => checkRecipe(body.text));
