import { entryBytes } from '../../../../../../../../src/server/content';
import { requireArchive } from '../../../../../../../../src/server/games';
import { answerBytes, numberParam } from '../../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, archive, n } = await params;
    const row = await requireArchive(numberParam(game, 'game'), numberParam(archive, 'archive'));
    return entryBytes(row.id, numberParam(n, 'entry'));
  });
