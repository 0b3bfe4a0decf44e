import { answer, numberParam } from '../../../../../../../src/server/http';
import { agreeToMod } from '../../../../../../../src/server/mods';

type Context = { params: Promise<{ game: string; run: string }> };

/** Brings in a mod that the run asked about. */
export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, run } = await params;
    return agreeToMod(numberParam(game, 'game'), numberParam(run, 'run'));
  });
