import { compareEntries } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';
import { entryMark } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Two entries beside each other: `left` and `right` are an archive and a number, such as `3.17`. */
export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = new URL(request.url).searchParams;
    return compareEntries(
      numberParam((await params).game, 'game'),
      entryMark.parse(query.get('left')),
      entryMark.parse(query.get('right')),
    );
  });
