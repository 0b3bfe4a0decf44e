import { listChanges, takeChange } from '../../../../../src/server/changes';
import { FaultError } from '../../../../../src/core/faults';
import { answer, bodyChunks, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listChanges(numberParam((await params).game, 'game')));

/** The file is the body, as it is; `name` says what it is called and `path`, when given, which entry it is for. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = new URL(request.url).searchParams;
    const fileName = query.get('name');
    if (fileName === null) throw new FaultError({ code: 'invalid-request', what: 'the file has no name' });
    return takeChange(numberParam((await params).game, 'game'), {
      path: query.get('path') ?? undefined,
      fileName,
      bytes: bodyChunks(request),
    });
  });
