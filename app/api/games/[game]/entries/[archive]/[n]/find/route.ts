import { findInEntry } from '../../../../../../../../src/server/entries';
import { requireArchive } from '../../../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../../../src/server/http';
import { findInEntryOrder } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

/** The next place in the bytes of an entry where something stands. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, archive, n } = await params;
    const row = await requireArchive(numberParam(game, 'game'), numberParam(archive, 'archive'));
    return findInEntry(row.id, numberParam(n, 'entry'), findInEntryOrder.parse(await request.json()));
  });
