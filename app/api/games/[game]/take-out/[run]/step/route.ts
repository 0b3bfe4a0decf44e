import { route } from '../../../../../../../src/server/http';
import { stepOfTakeOut } from '../../../../../../../src/server/take-out';

/** What a run took out, as a step of a routine. */
export const GET = route('GET games/{game}/take-out/{run}/step', async ({ params }) =>
  stepOfTakeOut(params.game, params.run),
);
