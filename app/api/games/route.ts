import { addGame, listGames } from '../../../src/server/games';
import { answer } from '../../../src/server/http';
import { newGame } from '../../../src/server/shapes';

export const GET = () => answer(listGames);

export const POST = (request: Request) => answer(async () => addGame(newGame.parse(await request.json())));
