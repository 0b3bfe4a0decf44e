import { forgetGame } from '../../../../../src/server/games';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => forgetGame(numberParam((await params).game, 'game'), false));
