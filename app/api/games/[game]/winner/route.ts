import { entryDetails } from '../../../../../src/server/entries';
import { findWinner } from '../../../../../src/server/content';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/winner', async ({ params: { game }, query }) => {
  const { archive, n } = await findWinner(game, query.path);
  return entryDetails(game, archive, n);
});
