import { forgetGame, gameAnswer, removeGame } from '../../../../src/server/games';
import { answer, numberParam } from '../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => gameAnswer(numberParam((await params).game, 'game')));

/** Sets a game aside; with `?for-good`, deletes everything that was made for it. */
export const DELETE = (request: Request, { params }: Context) =>
  answer(async () => {
    const game = numberParam((await params).game, 'game');
    return new URL(request.url).searchParams.has('for-good') ? removeGame(game) : forgetGame(game, true);
  });
