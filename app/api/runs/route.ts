import { route } from '../../../src/server/http';
import { listRuns } from '../../../src/server/runs';

export const GET = route('GET runs', async ({ query }) => listRuns(query.game));
