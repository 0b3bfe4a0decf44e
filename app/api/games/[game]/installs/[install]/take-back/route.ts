import { answer, numberParam } from '../../../../../../../src/server/http';
import { startTakeBack } from '../../../../../../../src/server/put-back';
import { takeBackOrder } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; install: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, install } = await params;
    const { leave } = takeBackOrder.parse(JSON.parse((await request.text()) || '{}'));
    return startTakeBack(numberParam(game, 'game'), numberParam(install, 'install'), leave);
  });
