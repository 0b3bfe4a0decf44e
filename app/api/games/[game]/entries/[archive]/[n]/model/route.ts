import { entryModel } from '../../../../../../../../src/server/entries';
import { requireArchive } from '../../../../../../../../src/server/games';
import { answerBytes, numberParam } from '../../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

/** A mesh, or a clip with its mesh, as GLB that a page draws. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, archive, n } = await params;
    const gameId = numberParam(game, 'game');
    const row = await requireArchive(gameId, numberParam(archive, 'archive'));
    return entryModel(gameId, row.id, numberParam(n, 'entry'), request.signal);
  });
