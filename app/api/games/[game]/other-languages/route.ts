import { otherLanguages } from '../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../src/server/http';
import { pathQuery } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const { path } = pathQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return otherLanguages(numberParam((await params).game, 'game'), path);
  });
