import { addKeyFile } from '../../../../../../src/server/games';
import { bodyChunks, route } from '../../../../../../src/server/http';

/** A key file is the body, as it is. */
export const POST = route('POST games/{game}/keys/file', async ({ params, request }) =>
  addKeyFile(params.game, bodyChunks(request)),
);
