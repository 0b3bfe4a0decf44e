import { listEntries } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';
import { entryQuery } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = entryQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return listEntries(numberParam((await params).game, 'game'), query);
  });
