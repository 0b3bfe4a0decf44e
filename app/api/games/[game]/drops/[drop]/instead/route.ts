import { addInstead } from '../../../../../../../src/server/changes';
import { route } from '../../../../../../../src/server/http';

export const POST = route('POST games/{game}/drops/{drop}/instead', async ({ params, body }) =>
  addInstead(params.game, params.drop, body.pairs),
);
