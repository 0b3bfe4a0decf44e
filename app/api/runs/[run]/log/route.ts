import { answer, numberParam } from '../../../../../src/server/http';
import { logOf } from '../../../../../src/server/runs';

type Context = { params: Promise<{ run: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => logOf(numberParam((await params).run, 'run')));
