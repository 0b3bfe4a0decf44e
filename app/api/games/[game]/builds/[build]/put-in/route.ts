import { answer, numberParam } from '../../../../../../../src/server/http';
import { startPutIn } from '../../../../../../../src/server/put-back';

type Context = { params: Promise<{ game: string; build: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, build } = await params;
    return startPutIn(numberParam(game, 'game'), numberParam(build, 'build'));
  });
