import { answerFile, numberParam } from '../../../../../../../src/server/http';
import { sharedFile } from '../../../../../../../src/server/mods';

type Context = { params: Promise<{ game: string; run: string }> };

/** The mod file that a run made. */
export const GET = (_: Request, { params }: Context) =>
  answerFile('application/zip', async () => {
    const { game, run } = await params;
    return sharedFile(numberParam(game, 'game'), numberParam(run, 'run'));
  });
