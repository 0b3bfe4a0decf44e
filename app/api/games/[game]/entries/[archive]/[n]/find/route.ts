import { findInEntry } from '../../../../../../../../src/server/entries';
import { requireArchive } from '../../../../../../../../src/server/games';
import { route } from '../../../../../../../../src/server/http';

/** The next place in the bytes of an entry where something is. */
export const POST = route('POST games/{game}/entries/{archive}/{n}/find', async ({ params, body }) => {
  const row = await requireArchive(params.game, params.archive);
  return findInEntry(row.id, params.n, body);
});
