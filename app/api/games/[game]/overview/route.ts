import { overviewOf } from '../../../../../src/server/entries';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/overview', async ({ params, query }) => {
  const place = query;
  return overviewOf(params.game, place);
});
