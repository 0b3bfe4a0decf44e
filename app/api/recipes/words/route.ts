import { route } from '../../../../src/server/http';
import { vocabulary } from '../../../../src/server/recipes';

export const GET = route('GET recipes/words', async () => vocabulary());
