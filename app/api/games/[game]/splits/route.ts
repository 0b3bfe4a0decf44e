import { splitsOf } from '../../../../../src/server/games';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => splitsOf(numberParam((await params).game, 'game')));
