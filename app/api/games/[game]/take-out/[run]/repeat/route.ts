import { route } from '../../../../../../../src/server/http';
import { repeatTakeOut } from '../../../../../../../src/server/take-out';

export const POST = route('POST games/{game}/take-out/{run}/repeat', async ({ params }) =>
  repeatTakeOut(params.game, params.run),
);
