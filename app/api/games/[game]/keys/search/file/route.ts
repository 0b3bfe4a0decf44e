import { searchSentFile } from '../../../../../../../src/server/games';
import { bodyChunks, route } from '../../../../../../../src/server/http';

/** Looks for keys in the body of the request. */
export const POST = route('POST games/{game}/keys/search/file', async ({ params, query, request }) =>
  searchSentFile(params.game, query.name, bodyChunks(request)),
);
