import { removeSearch } from '../../../../../../src/server/entries';
import { route } from '../../../../../../src/server/http';

export const DELETE = route('DELETE games/{game}/searches/{search}', async ({ params }) =>
  removeSearch(params.game, params.search),
);
