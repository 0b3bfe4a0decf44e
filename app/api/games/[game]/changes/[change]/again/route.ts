import { fitAgain } from '../../../../../../../src/server/changes';
import { route } from '../../../../../../../src/server/http';

export const POST = route('POST games/{game}/changes/{change}/again', async ({ params, body }) =>
  fitAgain(params.game, params.change, body),
);
