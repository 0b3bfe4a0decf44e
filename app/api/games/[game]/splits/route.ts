import { splitsOf } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/splits', async ({ params }) => splitsOf(params.game));
