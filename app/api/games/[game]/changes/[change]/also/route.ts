import { bringAlso } from '../../../../../../../src/server/changes';
import { route } from '../../../../../../../src/server/http';

export const POST = route('POST games/{game}/changes/{change}/also', async ({ params, body }) =>
  bringAlso(params.game, params.change, body.paths),
);
