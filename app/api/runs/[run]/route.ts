import { route } from '../../../../src/server/http';
import { runOf } from '../../../../src/server/runs';

export const GET = route('GET runs/{run}', async ({ params }) => runOf(params.run));
