import { gameAnswer, removeGame } from '../../../../src/server/games';
import { answer, numberParam } from '../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => gameAnswer(numberParam((await params).game, 'game')));

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => removeGame(numberParam((await params).game, 'game')));
