import { startRenew } from '../../../../../../src/server/changes';
import { route } from '../../../../../../src/server/http';

/** Brings the changes to the game as it is now, and builds. */
export const POST = route('POST games/{game}/changes/renew', async ({ params }) => startRenew(params.game));
