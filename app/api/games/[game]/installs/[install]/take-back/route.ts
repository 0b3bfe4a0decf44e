import { route } from '../../../../../../../src/server/http';
import { startTakeBack } from '../../../../../../../src/server/put-back';

export const POST = route('POST games/{game}/installs/{install}/take-back', async ({ params, body }) =>
  startTakeBack(params.game, params.install, body.leave),
);
