import { changeLoadOrder, gameAnswer } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';

/** Another rule for the load order, or archives in an order of their own; who wins is settled at once. */
export const PUT = route('PUT games/{game}/load-order', async ({ params, body }) => {
  const game = params.game;
  await changeLoadOrder(game, body);
  return gameAnswer(game);
});
