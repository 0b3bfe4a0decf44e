import { placeInList } from '../../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../../src/server/http';
import { entryPlace } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Where an entry stands in a list: `of` and `n` say which entry. */
export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = new URL(request.url).searchParams;
    return placeInList(
      numberParam((await params).game, 'game'),
      entryPlace.parse(Object.fromEntries(query)),
      numberParam(query.get('of'), 'of'),
      numberParam(query.get('n'), 'n'),
    );
  });
