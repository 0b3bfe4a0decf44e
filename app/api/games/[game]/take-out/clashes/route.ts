import { route } from '../../../../../../src/server/http';
import { clashesOf } from '../../../../../../src/server/take-out';

/** What a run of this order would meet. */
export const POST = route('POST games/{game}/take-out/clashes', async ({ params, body }) =>
  clashesOf(params.game, body),
);
