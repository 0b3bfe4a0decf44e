import { route } from '../../../../../src/server/http';
import { logOf } from '../../../../../src/server/runs';

export const GET = route('GET runs/{run}/log', async ({ params }) => logOf(params.run));
