import { compareEntries } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';
import { entryMark } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Two entries beside each other: `left` and `right` are an archive and a number, such as `3.17`; `of` is the game of the right one. */
export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = new URL(request.url).searchParams;
    const game = numberParam((await params).game, 'game');
    const of = query.get('of');
    return compareEntries(
      { game, ...entryMark.parse(query.get('left')) },
      { game: of === null ? game : numberParam(of, 'of'), ...entryMark.parse(query.get('right')) },
    );
  });
