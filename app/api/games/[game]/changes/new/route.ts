import { addEntry, archivesForNew } from '../../../../../../src/server/changes';
import { answer, bodyChunks, numberParam } from '../../../../../../src/server/http';
import { addOrder } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Archives that take new entries. */
export const GET = (_: Request, { params }: Context) =>
  answer(async () => archivesForNew(numberParam((await params).game, 'game')));

/** The file is the body, as it is; `path` is the new entry, `into` its archive and `name` what the file is called. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const order = addOrder.parse(Object.fromEntries(new URL(request.url).searchParams));
    return addEntry(numberParam((await params).game, 'game'), { ...order, bytes: bodyChunks(request) });
  });
