import { fitAgain } from '../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../src/server/http';
import { fitWishes } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; change: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, change } = await params;
    return fitAgain(numberParam(game, 'game'), numberParam(change, 'change'), fitWishes.parse(await request.json()));
  });
