import { requireGame } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';
import { exportCollection, importCollection } from '../../../../../src/server/recipes';

export const GET = route('GET games/{game}/recipes', async ({ params }) => {
  await requireGame(params.game);
  return exportCollection(params.game);
});

export const POST = route('POST games/{game}/recipes', async ({ params, body }) => {
  await requireGame(params.game);
  return importCollection(body.texts, { game: params.game, everywhere: body.everywhere });
});
