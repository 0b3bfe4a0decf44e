import { pictureOfBase } from '../../../../../../../../src/server/changes';
import { levelOf } from '../../../../../../../../src/server/forms';
import { answerLevel, numberParam } from '../../../../../../../../src/server/http';
import { levelQuery } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; change: string }> };

export const GET = (request: Request, { params }: Context) =>
  answerLevel(async () => {
    const { game, change } = await params;
    const level = levelQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    const { picture } = await pictureOfBase(numberParam(game, 'game'), numberParam(change, 'change'));
    return levelOf(picture, level);
  });
