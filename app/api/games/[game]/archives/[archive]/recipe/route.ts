import { chooseRecipe } from '../../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../../src/server/http';
import { recipeChoice } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string }> };

/** Says which of several fitting recipes a file is read with, and reads it. */
export const PUT = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, archive } = await params;
    const { recipe } = recipeChoice.parse(await request.json());
    return chooseRecipe(numberParam(game, 'game'), numberParam(archive, 'archive'), recipe);
  });
