import { archiveOf } from '../../../../../../src/server/games';
import { route } from '../../../../../../src/server/http';

export const GET = route('GET games/{game}/archives/{archive}', async ({ params }) =>
  archiveOf(params.game, params.archive),
);
