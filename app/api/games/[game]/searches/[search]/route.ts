import { removeSearch } from '../../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; search: string }> };

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, search } = await params;
    return removeSearch(numberParam(game, 'game'), numberParam(search, 'search'));
  });
