import { fitAgain } from '../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../src/server/http';
import { fitOptionsShape } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; change: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, change } = await params;
    return fitAgain(
      numberParam(game, 'game'),
      numberParam(change, 'change'),
      fitOptionsShape.parse(await request.json()),
    );
  });
