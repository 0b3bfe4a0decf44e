import { bodyChunks, route } from '../../../../../../../src/server/http';
import { keepPicture } from '../../../../../../../src/server/mods';

/** The picture is the body. */
export const POST = route('POST games/{game}/mods/share/picture', async ({ request }) =>
  keepPicture(bodyChunks(request)),
);
