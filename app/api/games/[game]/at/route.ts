import { entryAt } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

/** The entry whose stored bytes hold an offset of an archive, or null. */
export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = new URL(request.url).searchParams;
    return entryAt(
      numberParam((await params).game, 'game'),
      numberParam(query.get('archive'), 'archive'),
      numberParam(query.get('offset'), 'offset'),
    );
  });
