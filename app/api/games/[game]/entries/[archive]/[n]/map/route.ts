import { requireArchive } from '../../../../../../../../src/server/games';
import { route } from '../../../../../../../../src/server/http';
import { setTileMap, tileMapOf } from '../../../../../../../../src/server/records';

/** What an entry is as a map of tile layers. */
export const GET = route('GET games/{game}/entries/{archive}/{n}/map', async ({ params: { game, archive, n } }) => {
  const row = await requireArchive(game, archive);
  return tileMapOf(row.gameId, row.id, n);
});

/** How files like this one hold a map. */
export const PUT = route('PUT games/{game}/entries/{archive}/{n}/map', async ({ params, body }) => {
  const row = await requireArchive(params.game, params.archive);
  return setTileMap(row.gameId, row.id, params.n, body);
});
