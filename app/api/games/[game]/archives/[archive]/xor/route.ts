import { solveXorOf } from '../../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../../src/server/http';
import { xorOrder } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string }> };

/** Solves a repeating XOR from known bytes; the key itself is never in the answer. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, archive } = await params;
    const order = xorOrder.parse(await request.json());
    return solveXorOf(numberParam(game, 'game'), numberParam(archive, 'archive'), order);
  });
