import { startBringIn } from '../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; drop: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, drop } = await params;
    return startBringIn(numberParam(game, 'game'), numberParam(drop, 'drop'));
  });
