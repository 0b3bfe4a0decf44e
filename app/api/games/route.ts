import { addGame, listGames } from '../../../src/server/games';
import { route } from '../../../src/server/http';

export const GET = route('GET games', async () => listGames());

export const POST = route('POST games', async ({ body }) => addGame(body));
