import { answer, numberParam } from '../../../../../../src/server/http';
import { listTables } from '../../../../../../src/server/words';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listTables(numberParam((await params).game, 'game')));
