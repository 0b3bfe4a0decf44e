import { answer, numberParam } from '../../../../../src/server/http';
import { startBuild, startEstimate } from '../../../../../src/server/put-back';
import { buildOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { how, ...more } = buildOrder.parse(await request.json());
    return startBuild(numberParam((await params).game, 'game'), how, more);
  });

/** Works out what each way to build would write. */
export const PUT = (_: Request, { params }: Context) =>
  answer(async () => startEstimate(numberParam((await params).game, 'game')));
