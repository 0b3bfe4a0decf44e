import { modelOfChange } from '../../../../../../../src/server/changes';
import { answerBytes, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; change: string }> };

/** A changed mesh as GLB that a page draws. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, change } = await params;
    return modelOfChange(numberParam(game, 'game'), numberParam(change, 'change'), 'change', request.signal);
  });
