import { route } from '../../../../../src/server/http';
import { linksOf, startLinks } from '../../../../../src/server/inside';

/** What an entry names and what names it. */
export const GET = route('GET games/{game}/links', async ({ params, query }) => linksOf(params.game, query.path));

/** Starts to find out what names what. */
export const POST = route('POST games/{game}/links', async ({ params }) => startLinks(params.game));
