import { answer, numberParam } from '../../../../src/server/http';
import { runOf } from '../../../../src/server/runs';

type Context = { params: Promise<{ run: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => runOf(numberParam((await params).run, 'run')));
