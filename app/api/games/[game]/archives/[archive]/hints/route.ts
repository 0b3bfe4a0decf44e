import { hintsOfArchive } from '../../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, archive } = await params;
    return hintsOfArchive(numberParam(game, 'game'), numberParam(archive, 'archive'), request.signal);
  });
