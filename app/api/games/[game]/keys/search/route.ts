import { searchGameFile } from '../../../../../../src/server/games';
import { route } from '../../../../../../src/server/http';

/** Looks for keys in a file of the game. */
export const POST = route('POST games/{game}/keys/search', async ({ params, body }) =>
  searchGameFile(params.game, body.file),
);
