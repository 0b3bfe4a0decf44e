import { answer, numberParam } from '../../../../../../src/server/http';
import { removeRoutine, startRoutine } from '../../../../../../src/server/routines';

type Context = { params: Promise<{ game: string; routine: string }> };

/** Starts the run. */
export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, routine } = await params;
    return startRoutine(numberParam(game, 'game'), numberParam(routine, 'routine'));
  });

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, routine } = await params;
    return removeRoutine(numberParam(game, 'game'), numberParam(routine, 'routine'));
  });
