import { route } from '../../../../../src/server/http';
import { startBuild, startEstimate } from '../../../../../src/server/put-back';

export const POST = route('POST games/{game}/builds', async ({ params, body }) => {
  const { how, ...more } = body;
  return startBuild(params.game, how, more);
});

/** Works out what each way to build would write. */
export const PUT = route('PUT games/{game}/builds', async ({ params }) => startEstimate(params.game));
