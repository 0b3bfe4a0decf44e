import { addPattern } from '../../../../../../src/server/games';
import { route } from '../../../../../../src/server/http';

export const POST = route('POST games/{game}/names/pattern', async ({ params, body }) => addPattern(params.game, body));
