import { addNameList } from '../../../../../src/server/games';
import { bodyChunks, route } from '../../../../../src/server/http';

/** The list is the body, as it is; `name` says what it is called. */
export const POST = route('POST games/{game}/names', async ({ params, query, request }) =>
  addNameList(params.game, query.name, bodyChunks(request)),
);
