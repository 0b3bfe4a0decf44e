import { entryDetails } from '../../../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, archive, n } = await params;
    return entryDetails(numberParam(game, 'game'), numberParam(archive, 'archive'), numberParam(n, 'entry'));
  });
