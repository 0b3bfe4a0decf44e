import { addInstead } from '../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../src/server/http';
import { insteadOrder } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; drop: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, drop } = await params;
    return addInstead(
      numberParam(game, 'game'),
      numberParam(drop, 'drop'),
      insteadOrder.parse(await request.json()).pairs,
    );
  });
