import { placeInList } from '../../../../../../src/server/entries';
import { route } from '../../../../../../src/server/http';

/** Where an entry is in a list: `of` and `n` say which entry. */
export const GET = route('GET games/{game}/entries/place', async ({ params, query: { of, n, ...place } }) =>
  placeInList(params.game, place, of, n),
);
