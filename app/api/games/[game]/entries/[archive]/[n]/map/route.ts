import { requireArchive } from '../../../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../../../src/server/http';
import { setTileMap, tileMapOf } from '../../../../../../../../src/server/records';
import { tileMapEdit } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

const numbers = async ({ params }: Context) => {
  const { game, archive, n } = await params;
  const row = await requireArchive(numberParam(game, 'game'), numberParam(archive, 'archive'));
  return [row.gameId, row.id, numberParam(n, 'entry')] as const;
};

/** What an entry is as a map of tile layers. */
export const GET = (_: Request, context: Context) => answer(async () => tileMapOf(...(await numbers(context))));

/** How files like this one hold a map. */
export const PUT = (request: Request, context: Context) =>
  answer(async () => setTileMap(...(await numbers(context)), tileMapEdit.parse(await request.json())));
