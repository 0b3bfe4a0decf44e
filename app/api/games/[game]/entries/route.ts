import { listEntries } from '../../../../../src/server/entries';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/entries', async ({ params, query }) => listEntries(params.game, query));
