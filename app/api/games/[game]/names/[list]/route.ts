import { removeNameList } from '../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; list: string }> };

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, list } = await params;
    return removeNameList(numberParam(game, 'game'), numberParam(list, 'list'));
  });
