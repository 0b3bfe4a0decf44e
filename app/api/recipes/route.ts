import { answer } from '../../../src/server/http';
import { listRecipes, saveRecipe } from '../../../src/server/recipes';
import { recipeText } from '../../../src/server/shapes';

export const GET = () => answer(listRecipes);

export const POST = (request: Request) =>
  answer(async () => saveRecipe(recipeText.parse(await request.json()).text));
