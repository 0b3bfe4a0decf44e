import { addKey } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';

export const POST = route('POST games/{game}/keys', async ({ params, body }) => addKey(params.game, body.text));
