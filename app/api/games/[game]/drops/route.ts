import { listIncomingFiles, newDrop } from '../../../../../src/server/changes';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/drops', async ({ params }) => listIncomingFiles(params.game));

/** Says which files are to come; they are sent one by one. Scripts that do not know may leave the body out. */
export const POST = route('POST games/{game}/drops', async ({ params, body }) => newDrop(params.game, body.files));
