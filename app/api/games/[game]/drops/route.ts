import { listIncomingFiles, newDrop } from '../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../src/server/http';
import { importOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listIncomingFiles(numberParam((await params).game, 'game')));

/** Says which files are to come; they are sent one by one. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => newDrop(numberParam((await params).game, 'game'), importOrder.parse(await request.json()).files));
