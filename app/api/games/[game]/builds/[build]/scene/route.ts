import { answerBytes, numberParam } from '../../../../../../../src/server/http';
import { sceneBytes } from '../../../../../../../src/server/put-back';
import { sceneQuery } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; build: string }> };

export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, build } = await params;
    const query = sceneQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return sceneBytes(numberParam(game, 'game'), numberParam(build, 'build'), query);
  });
