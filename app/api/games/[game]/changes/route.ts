import { listChanges } from '../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listChanges(numberParam((await params).game, 'game')));
