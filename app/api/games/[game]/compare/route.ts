import { compareEntries } from '../../../../../src/server/entries';
import { route } from '../../../../../src/server/http';

/** Two entries next to each other. */
export const GET = route('GET games/{game}/compare', async ({ params, query }) => {
  const { left, right, of = params.game } = query;
  return compareEntries({ game: params.game, ...left }, { game: of, ...right });
});
