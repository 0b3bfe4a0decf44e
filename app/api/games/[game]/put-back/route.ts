import { answer, numberParam } from '../../../../../src/server/http';
import { putBackAnswer } from '../../../../../src/server/put-back';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => putBackAnswer(numberParam((await params).game, 'game')));
