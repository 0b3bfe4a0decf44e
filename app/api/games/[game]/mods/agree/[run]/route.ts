import { route } from '../../../../../../../src/server/http';
import { agreeToMod } from '../../../../../../../src/server/mods';

/** Brings in a mod that the run asked about. */
export const POST = route('POST games/{game}/mods/agree/{run}', async ({ params }) =>
  agreeToMod(params.game, params.run),
);
