import { route } from '../../../../../../src/server/http';
import { changeText, textPlaceOf } from '../../../../../../src/server/changes';

/** The text that a place inside a file lies in. */
export const GET = route('GET games/{game}/inside/text', async ({ params, query }) => textPlaceOf(params.game, query));

/** Other words in its place. */
export const POST = route('POST games/{game}/inside/text', async ({ params, body }) => changeText(params.game, body));
