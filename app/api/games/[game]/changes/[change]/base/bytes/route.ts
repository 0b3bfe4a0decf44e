import { baseBytes } from '../../../../../../../../src/server/changes';
import { answerBytes, numberParam } from '../../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; change: string }> };

/** What the game had when the change was made. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, change } = await params;
    return baseBytes(numberParam(game, 'game'), numberParam(change, 'change'));
  });
