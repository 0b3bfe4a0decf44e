import { companionsOf } from '../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../src/server/http';
import { insteadQuery } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const { path, from } = insteadQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return companionsOf(numberParam((await params).game, 'game'), path, from);
  });
