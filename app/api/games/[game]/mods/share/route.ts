import { route } from '../../../../../../src/server/http';
import { startShare } from '../../../../../../src/server/mods';

export const POST = route('POST games/{game}/mods/share', async ({ params, body }) => startShare(params.game, body));
