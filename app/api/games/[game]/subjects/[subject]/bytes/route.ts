import { answerBytes, numberParam } from '../../../../../../../src/server/http';
import { subjectOf } from '../../../../../../../src/server/subjects';

type Context = { params: Promise<{ game: string; subject: string }> };

/** Its plain bytes. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, subject } = await params;
    const { bytes, mime, path } = await subjectOf(numberParam(game, 'game'), subject);
    return { bytes: await bytes(), mime, path };
  });
