import { answer, numberParam } from '../../../../../../src/server/http';
import { startShare } from '../../../../../../src/server/mods';
import { shareOrder } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const POST = (request: Request, { params }: Context) =>
  answer(async () => startShare(numberParam((await params).game, 'game'), shareOrder.parse(await request.json())));
