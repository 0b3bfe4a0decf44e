import { listSearches, saveSearch } from '../../../../../src/server/entries';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/searches', async ({ params }) => listSearches(params.game));

export const POST = route('POST games/{game}/searches', async ({ params, body }) => saveSearch(params.game, body));
