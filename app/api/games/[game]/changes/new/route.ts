import { addEntry, archivesForNew } from '../../../../../../src/server/changes';
import { bodyChunks, route } from '../../../../../../src/server/http';

/** Archives that take new entries. */
export const GET = route('GET games/{game}/changes/new', async ({ params }) => archivesForNew(params.game));

/** The file is the body, as it is; `path` is the new entry, `into` its archive and `name` what the file is called. */
export const POST = route('POST games/{game}/changes/new', async ({ params, query, request }) =>
  addEntry(params.game, { ...query, bytes: bodyChunks(request) }),
);
