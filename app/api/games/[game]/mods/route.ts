import { bodyChunks, route } from '../../../../../src/server/http';
import { listMods, startBringMod } from '../../../../../src/server/mods';

export const GET = route('GET games/{game}/mods', async ({ params }) => listMods(params.game));

/** The mod file is the body; `name` is what it is called. */
export const POST = route('POST games/{game}/mods', async ({ params, query, request }) =>
  startBringMod(params.game, query.name, bodyChunks(request)),
);
