import { answer, bodyChunks } from '../../../../../../../src/server/http';
import { keepPicture } from '../../../../../../../src/server/mods';

/** The picture is the body. */
export const POST = (request: Request) => answer(() => keepPicture(bodyChunks(request)));
