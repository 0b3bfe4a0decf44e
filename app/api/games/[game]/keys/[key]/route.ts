import { removeKey } from '../../../../../../src/server/games';
import { route } from '../../../../../../src/server/http';

export const DELETE = route('DELETE games/{game}/keys/{key}', async ({ params }) => removeKey(params.game, params.key));
