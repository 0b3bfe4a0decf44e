import { requireArchive } from '../../../../../../../../../src/server/games';
import { answerBytes, numberParam } from '../../../../../../../../../src/server/http';
import { tileMapPicture } from '../../../../../../../../../src/server/records';
import { tileMapQuery } from '../../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

/** A map as PNG, with the layers that are asked for. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, archive, n } = await params;
    const row = await requireArchive(numberParam(game, 'game'), numberParam(archive, 'archive'));
    const { layers } = tileMapQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return tileMapPicture(row.gameId, row.id, numberParam(n, 'entry'), layers);
  });
