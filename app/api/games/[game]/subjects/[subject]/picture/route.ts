import { levelOf, pictureOf } from '../../../../../../../src/server/forms';
import { answerLevel, numberParam } from '../../../../../../../src/server/http';
import { levelQuery } from '../../../../../../../src/server/shapes';
import { subjectOf } from '../../../../../../../src/server/subjects';

type Context = { params: Promise<{ game: string; subject: string }> };

/** One level of a packed picture, which the page unpacks. */
export const GET = (request: Request, { params }: Context) =>
  answerLevel(async () => {
    const { game, subject } = await params;
    const level = levelQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    const { picture } = await pictureOf(await subjectOf(numberParam(game, 'game'), subject));
    return levelOf(picture, level);
  });
