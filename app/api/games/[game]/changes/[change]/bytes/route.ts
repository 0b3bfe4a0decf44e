import { changeBytes } from '../../../../../../../src/server/changes';
import { answerBytes, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; change: string }> };

export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, change } = await params;
    return changeBytes(numberParam(game, 'game'), numberParam(change, 'change'));
  });
