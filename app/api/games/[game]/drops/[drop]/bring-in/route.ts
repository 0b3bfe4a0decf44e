import { startBringIn } from '../../../../../../../src/server/changes';
import { route } from '../../../../../../../src/server/http';

export const POST = route('POST games/{game}/drops/{drop}/bring-in', async ({ params }) =>
  startBringIn(params.game, params.drop),
);
