import { countPattern } from '../../../../../../../src/server/games';
import { route } from '../../../../../../../src/server/http';

export const POST = route('POST games/{game}/names/pattern/count', async ({ body }) => countPattern(body));
