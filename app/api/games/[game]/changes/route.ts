import { listChanges, removeEntry } from '../../../../../src/server/changes';
import { route } from '../../../../../src/server/http';
import { MOST_LISTED_CHANGES } from '../../../../../src/server/shapes';

export const GET = route('GET games/{game}/changes', async ({ params }) =>
  listChanges(params.game, MOST_LISTED_CHANGES),
);

/** An entry is to be gone from the game. */
export const POST = route('POST games/{game}/changes', async ({ params, body }) =>
  removeEntry(params.game, body.remove),
);
