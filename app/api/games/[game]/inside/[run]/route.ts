import { answer, numberParam } from '../../../../../../src/server/http';
import { listHits } from '../../../../../../src/server/inside';

type Context = { params: Promise<{ game: string; run: string }> };

/** What was found so far, from `offset` on. */
export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, run } = await params;
    const offset = new URL(request.url).searchParams.get('offset') ?? '0';
    return listHits(numberParam(game, 'game'), numberParam(run, 'run'), numberParam(offset, 'offset'));
  });
