import { answer } from '../../../../src/server/http';
import { checkRecipe } from '../../../../src/server/recipes';
import { recipeText } from '../../../../src/server/shapes';

export const POST = (request: Request) =>
  answer(async () => checkRecipe(recipeText.parse(await request.json()).text));
