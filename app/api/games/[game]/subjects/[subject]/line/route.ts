import { fontLine } from '../../../../../../../src/server/forms';
import { answerBytes, numberParam } from '../../../../../../../src/server/http';
import { fontLineQuery } from '../../../../../../../src/server/shapes';
import { subjectOf } from '../../../../../../../src/server/subjects';

type Context = { params: Promise<{ game: string; subject: string }> };

/** A line of text drawn in a font. */
export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, subject } = await params;
    const query = fontLineQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    const of = await subjectOf(numberParam(game, 'game'), subject);
    return { bytes: await fontLine(of, query), mime: 'image/png', path: 'line.png' };
  });
