import { route } from '../../../../../../src/server/http';
import { fillTwins } from '../../../../../../src/server/words';

/** Texts whose source is translated elsewhere take that text. */
export const POST = route('POST games/{game}/words/twins', async ({ params, body }) => fillTwins(params.game, body));
