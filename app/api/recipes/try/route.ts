import { tryOnArchive } from '../../../../src/server/games';
import { answer } from '../../../../src/server/http';
import { recipeTry } from '../../../../src/server/shapes';

export const POST = (request: Request) => answer(async () => tryOnArchive(recipeTry.parse(await request.json()), request.signal));
