import { addIncomingFile } from '../../../../../../../src/server/changes';
import { answer, bodyChunks, numberParam } from '../../../../../../../src/server/http';
import { incomingFileQuery } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; drop: string }> };

/** The file is the body, as it is; `name` says what it is called and `path`, when given, which entry it is for. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, drop } = await params;
    const { name, path } = incomingFileQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return addIncomingFile(numberParam(game, 'game'), numberParam(drop, 'drop'), {
      name,
      path,
      bytes: bodyChunks(request),
    });
  });
