import { hintsOfArchive } from '../../../../../../../src/server/games';
import { route } from '../../../../../../../src/server/http';

export const GET = route('GET games/{game}/archives/{archive}/hints', async ({ params, request }) =>
  hintsOfArchive(params.game, params.archive, request.signal),
);
