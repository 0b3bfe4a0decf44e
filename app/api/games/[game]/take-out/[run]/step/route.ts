import { answer, numberParam } from '../../../../../../../src/server/http';
import { stepOfTakeOut } from '../../../../../../../src/server/take-out';

type Context = { params: Promise<{ game: string; run: string }> };

/** What a run took out, as a step of a routine. */
export const GET = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, run } = await params;
    return stepOfTakeOut(numberParam(game, 'game'), numberParam(run, 'run'));
  });
