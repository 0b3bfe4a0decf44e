import { entryDetails } from '../../../../../../../src/server/entries';
import { route } from '../../../../../../../src/server/http';

export const GET = route('GET games/{game}/entries/{archive}/{n}', async ({ params }) =>
  entryDetails(params.game, params.archive, params.n),
);
