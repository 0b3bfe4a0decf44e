import { archiveBytes } from '../../../../../../../src/server/games';
import { answerPart, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string }> };

/** A stretch of the main file, as the `range` header asks. */
export const GET = (request: Request, { params }: Context) =>
  answerPart(request, async (from, to) => {
    const { game, archive } = await params;
    return archiveBytes(numberParam(game, 'game'), numberParam(archive, 'archive'), from, to);
  });
