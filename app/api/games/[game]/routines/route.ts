import { answer, numberParam } from '../../../../../src/server/http';
import { listRoutines, saveRoutine } from '../../../../../src/server/routines';
import { routineOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listRoutines(numberParam((await params).game, 'game')));

export const POST = (request: Request, { params }: Context) =>
  answer(async () => saveRoutine(numberParam((await params).game, 'game'), routineOrder.parse(await request.json())));
