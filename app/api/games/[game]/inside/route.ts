import { answer, numberParam } from '../../../../../src/server/http';
import { startInside } from '../../../../../src/server/inside';
import { insideOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Starts to look inside the entries of a list. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => startInside(numberParam((await params).game, 'game'), insideOrder.parse(await request.json())));
