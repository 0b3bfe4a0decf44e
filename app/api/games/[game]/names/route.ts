import { FaultError } from '../../../../../src/core/faults';
import { addNameList } from '../../../../../src/server/games';
import { answer, bodyChunks, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

/** The list is the body, as it is; `name` says what it is called. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const name = new URL(request.url).searchParams.get('name');
    if (name === null) throw new FaultError({ code: 'invalid-request', what: 'the list has no name' });
    return addNameList(numberParam((await params).game, 'game'), name.slice(0, 200), bodyChunks(request));
  });
