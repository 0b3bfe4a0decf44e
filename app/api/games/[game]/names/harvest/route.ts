import { harvestNames } from '../../../../../../src/server/games';
import { route } from '../../../../../../src/server/http';

export const POST = route('POST games/{game}/names/harvest', async ({ params }) => harvestNames(params.game));
