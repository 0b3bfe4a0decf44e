import { overviewOf } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';
import { entryPlace } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const place = entryPlace.parse(Object.fromEntries(new URL(request.url).searchParams));
    return overviewOf(numberParam((await params).game, 'game'), place);
  });
