import { answer, numberParam } from '../../../../../../src/server/http';
import { takeOutOrder } from '../../../../../../src/server/shapes';
import { clashesOf } from '../../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string }> };

/** What a run of this order would meet. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => clashesOf(numberParam((await params).game, 'game'), takeOutOrder.parse(await request.json())));
