import { forgetGame } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';

export const POST = route('POST games/{game}/bring-back', async ({ params }) => forgetGame(params.game, false));
