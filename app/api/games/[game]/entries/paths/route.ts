import { listPaths } from '../../../../../../src/server/entries';
import { route } from '../../../../../../src/server/http';

/** The paths of a list, or of parts of it. */
export const POST = route('POST games/{game}/entries/paths', async ({ params, body }) => listPaths(params.game, body));
