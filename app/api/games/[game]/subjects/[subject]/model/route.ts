import { meshFileOf, WEB_PREVIEW_OPTIONS } from '../../../../../../../src/server/forms';
import { answerBytes, numberParam } from '../../../../../../../src/server/http';
import { subjectOf } from '../../../../../../../src/server/subjects';

type Context = { params: Promise<{ game: string; subject: string }> };

/** A mesh, or a clip with its mesh, as GLB that a page draws. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, subject } = await params;
    const { gameId, path, bytes } = await subjectOf(numberParam(game, 'game'), subject);
    return meshFileOf(gameId, { path, bytes: await bytes() }, WEB_PREVIEW_OPTIONS, request.signal);
  });
