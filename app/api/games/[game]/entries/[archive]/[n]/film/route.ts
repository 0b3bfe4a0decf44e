import { filmFile, filmFilePath } from '../../../../../../../../src/server/films';
import { answer, answerStretch, numberParam } from '../../../../../../../../src/server/http';
import { filmOrder } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

async function placeOf({ params }: Context): Promise<[game: number, archive: number, n: number]> {
  const { game, archive, n } = await params;
  return [numberParam(game, 'game'), numberParam(archive, 'archive'), numberParam(n, 'entry')];
}

/** The film as a file that was made before. */
export const GET = (request: Request, context: Context) =>
  answerStretch(request, async () => {
    const order = filmOrder.parse(Object.fromEntries(new URL(request.url).searchParams));
    return filmFilePath(...(await placeOf(context)), order);
  });

/** Has it made, unless it is there. */
export const POST = (request: Request, context: Context) =>
  answer(async () => filmFile(...(await placeOf(context)), filmOrder.parse(await request.json())));
