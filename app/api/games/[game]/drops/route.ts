import { listArrivals, newDrop } from '../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listArrivals(numberParam((await params).game, 'game')));

export const POST = (_: Request, { params }: Context) =>
  answer(async () => newDrop(numberParam((await params).game, 'game')));
