import { archiveOf } from '../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, archive } = await params;
    return archiveOf(numberParam(game, 'game'), numberParam(archive, 'archive'));
  });
