import { forgetGame, gameAnswer, removeGame } from '../../../../src/server/games';
import { route } from '../../../../src/server/http';

export const GET = route('GET games/{game}', async ({ params }) => gameAnswer(params.game));

/** Sets a game aside; with `?for-good`, deletes everything that was made for it. */
export const DELETE = route('DELETE games/{game}', async ({ params, query }) =>
  query['for-good'] === undefined ? forgetGame(params.game, true) : removeGame(params.game),
);
