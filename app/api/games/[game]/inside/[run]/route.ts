import { route } from '../../../../../../src/server/http';
import { listHits } from '../../../../../../src/server/inside';

/** What was found so far, from `offset` on. */
export const GET = route('GET games/{game}/inside/{run}', async ({ params, query }) =>
  listHits(params.game, params.run, query.offset),
);
