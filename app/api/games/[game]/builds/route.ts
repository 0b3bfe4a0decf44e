import { answer, numberParam } from '../../../../../src/server/http';
import { startBuild } from '../../../../../src/server/put-back';
import { buildOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => startBuild(numberParam((await params).game, 'game'), buildOrder.parse(await request.json()).how));
