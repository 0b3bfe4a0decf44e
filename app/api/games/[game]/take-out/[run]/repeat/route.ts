import { answer, numberParam } from '../../../../../../../src/server/http';
import { repeatTakeOut } from '../../../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string; run: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, run } = await params;
    return repeatTakeOut(numberParam(game, 'game'), numberParam(run, 'run'));
  });
