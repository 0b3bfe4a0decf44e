import { answer, numberParam } from '../../../../../src/server/http';
import { takeOutOrder } from '../../../../../src/server/shapes';
import { startTakeOut } from '../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => startTakeOut(numberParam((await params).game, 'game'), takeOutOrder.parse(await request.json())));
