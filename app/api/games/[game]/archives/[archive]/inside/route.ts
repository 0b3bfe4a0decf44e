import { archivesInside } from '../../../../../../../src/server/games';
import { route } from '../../../../../../../src/server/http';

export const GET = route('GET games/{game}/archives/{archive}/inside', async ({ params }) =>
  archivesInside(params.game, params.archive),
);
