import { answer, numberParam } from '../../../../../../src/server/http';
import { whereIs } from '../../../../../../src/server/records';
import { whereQuery } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const { value } = whereQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return whereIs(numberParam((await params).game, 'game'), value);
  });
