import { route } from '../../../../../src/server/http';
import { startInside } from '../../../../../src/server/inside';

/** Starts to look inside the entries of a list. */
export const POST = route('POST games/{game}/inside', async ({ params, body }) => startInside(params.game, body));
