import { bringAlso } from '../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../src/server/http';
import { alsoOrder } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; change: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, change } = await params;
    return bringAlso(
      numberParam(game, 'game'),
      numberParam(change, 'change'),
      alsoOrder.parse(await request.json()).paths,
    );
  });
