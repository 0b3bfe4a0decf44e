import { findInside } from '../../../../../../../src/server/games';
import { route } from '../../../../../../../src/server/http';

/** Looks for pictures, sounds and streams inside a file no recipe knows. */
export const POST = route('POST games/{game}/archives/{archive}/find-inside', async ({ params }) =>
  findInside(params.game, params.archive),
);
