import { entryAt } from '../../../../../src/server/entries';
import { route } from '../../../../../src/server/http';

/** The entry whose stored bytes hold an offset of an archive, or null. */
export const GET = route('GET games/{game}/at', async ({ params, query }) =>
  entryAt(params.game, query.archive, query.offset),
);
