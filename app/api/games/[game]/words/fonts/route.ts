import { route } from '../../../../../../src/server/http';
import { listFontGaps } from '../../../../../../src/server/words';

/** Which fonts of the game lack letters that the texts of a table use. */
export const GET = route('GET games/{game}/words/fonts', async ({ params, query }) => listFontGaps(params.game, query));
