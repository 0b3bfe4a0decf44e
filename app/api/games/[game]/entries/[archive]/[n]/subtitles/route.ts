import { filmSubtitles } from '../../../../../../../../src/server/forms/film';
import { answerText, numberParam } from '../../../../../../../../src/server/http';
import { filmOrder } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

/** The subtitles of one stream of a film, as SRT or WebVTT. */
export const GET = async (request: Request, { params }: Context) => {
  const { game, archive, n } = await params;
  const query = new URL(request.url).searchParams;
  const as = query.get('as') === 'srt' ? 'srt' : 'vtt';
  return answerText(`subtitles.${as}`, as === 'vtt' ? 'text/vtt' : 'text/plain', async () => {
    const order = filmOrder.parse({ ...Object.fromEntries(query), as });
    return filmSubtitles(numberParam(game, 'game'), numberParam(archive, 'archive'), numberParam(n, 'entry'), order);
  });
};
