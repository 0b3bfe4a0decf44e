import { addIncomingFile } from '../../../../../../../src/server/changes';
import { bodyChunks, route } from '../../../../../../../src/server/http';

/** The file is the body, as it is; `name` says what it is called and `path`, when given, which entry it is for. */
export const POST = route('POST games/{game}/drops/{drop}/files', async ({ params, query, request }) =>
  addIncomingFile(params.game, params.drop, { ...query, bytes: bodyChunks(request) }),
);
