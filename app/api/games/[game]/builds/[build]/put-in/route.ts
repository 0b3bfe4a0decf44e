import { route } from '../../../../../../../src/server/http';
import { startPutIn } from '../../../../../../../src/server/put-back';

export const POST = route('POST games/{game}/builds/{build}/put-in', async ({ params }) =>
  startPutIn(params.game, params.build),
);
