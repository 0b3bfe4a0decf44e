import { addKey } from '../../../../../src/server/games';
import { answer, numberParam } from '../../../../../src/server/http';
import { newKey } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => addKey(numberParam((await params).game, 'game'), newKey.parse(await request.json()).text));
