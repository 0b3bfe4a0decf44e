import { tryOnArchive } from '../../../../src/server/games';
import { route } from '../../../../src/server/http';

export const POST = route('POST recipes/try', async ({ body, request }) => tryOnArchive(body, request.signal));
