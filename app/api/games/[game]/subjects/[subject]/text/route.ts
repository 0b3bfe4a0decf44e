import { messagesOf } from '../../../../../../../src/server/forms';
import { answerBytes, numberParam } from '../../../../../../../src/server/http';
import { subjectOf } from '../../../../../../../src/server/subjects';

type Context = { params: Promise<{ game: string; subject: string }> };

/** Messages that are kept packed, as a text that people read. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, subject } = await params;
    const text = await messagesOf(await subjectOf(numberParam(game, 'game'), subject));
    return { bytes: Buffer.from(text), mime: 'text/plain; charset=utf-8', path: 'messages.po' };
  });
