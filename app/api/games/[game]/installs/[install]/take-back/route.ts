import { answer, numberParam } from '../../../../../../../src/server/http';
import { startTakeBack } from '../../../../../../../src/server/put-back';

type Context = { params: Promise<{ game: string; install: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, install } = await params;
    return startTakeBack(numberParam(game, 'game'), numberParam(install, 'install'));
  });
