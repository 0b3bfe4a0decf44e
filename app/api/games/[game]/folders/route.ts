import { listFolders } from '../../../../../src/server/entries';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/folders', async ({ params, query }) =>
  listFolders(params.game, query.under, query.archive),
);
