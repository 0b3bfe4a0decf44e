import { changeLoadOrder, gameAnswer } from '../../../../../src/server/games';
import { answer, numberParam } from '../../../../../src/server/http';
import { loadOrderEdit } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Another rule for the load order, or archives in an order of their own; who wins is settled at once. */
export const PUT = (request: Request, { params }: Context) =>
  answer(async () => {
    const game = numberParam((await params).game, 'game');
    await changeLoadOrder(game, loadOrderEdit.parse(await request.json()));
    return gameAnswer(game);
  });
