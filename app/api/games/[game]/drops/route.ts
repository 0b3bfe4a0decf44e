import { listIncomingFiles, newDrop } from '../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../src/server/http';
import { importOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listIncomingFiles(numberParam((await params).game, 'game')));

/** Says which files are to come; they are sent one by one. Scripts that do not know may leave the body out. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const text = await request.text();
    const { files } = importOrder.parse(text === '' ? { files: [] } : JSON.parse(text));
    return newDrop(numberParam((await params).game, 'game'), files);
  });
