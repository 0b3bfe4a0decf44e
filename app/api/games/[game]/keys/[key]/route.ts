import { removeKey } from '../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; key: string }> };

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, key } = await params;
    return removeKey(numberParam(game, 'game'), numberParam(key, 'key'));
  });
