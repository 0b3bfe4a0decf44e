import { soundOfChange } from '../../../../../../../src/server/changes';
import { answerBytes, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; change: string }> };

/** A changed sound as WAVE, which every browser plays. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, change } = await params;
    return soundOfChange(numberParam(game, 'game'), numberParam(change, 'change'));
  });
