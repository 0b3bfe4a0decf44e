import { glancesAt } from '../../../../../src/server/entries';
import { requireArchive } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';

/** Several entries at a glance, as they come into view. */
export const POST = route('POST games/{game}/glances', async ({ params, body }) => {
  const game = params.game;
  const { entries } = body;
  for (const archive of new Set(entries.map(([id]) => id))) await requireArchive(game, archive);
  return glancesAt(entries);
});
