import { solveXorOf } from '../../../../../../../src/server/games';
import { route } from '../../../../../../../src/server/http';

/** Solves a repeating XOR from known bytes; the key itself is never in the answer. */
export const POST = route('POST games/{game}/archives/{archive}/xor', async ({ params, body }) =>
  solveXorOf(params.game, params.archive, body),
);
