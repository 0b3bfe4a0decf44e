import { route } from '../../../../../src/server/http';
import { startTakeOut } from '../../../../../src/server/take-out';

export const POST = route('POST games/{game}/take-out', async ({ params, body }) => startTakeOut(params.game, body));
