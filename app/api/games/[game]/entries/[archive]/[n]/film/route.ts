import { filmFile, filmFilePath } from '../../../../../../../../src/server/forms/film';
import { answerStretch, numberParam, route } from '../../../../../../../../src/server/http';
import { filmOrder } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

/** The film as a file that was made before. */
export const GET = (request: Request, { params }: Context) =>
  answerStretch(request, async () => {
    const order = filmOrder.parse(Object.fromEntries(new URL(request.url).searchParams));
    const { game, archive, n } = await params;
    return filmFilePath(numberParam(game, 'game'), numberParam(archive, 'archive'), numberParam(n, 'entry'), order);
  });

/** Has it made, unless it is there. */
export const POST = route('POST games/{game}/entries/{archive}/{n}/film', async ({ params, body }) =>
  filmFile(params.game, params.archive, params.n, body),
);
