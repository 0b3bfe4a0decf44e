import { route } from '../../../../../../src/server/http';
import { removeRoutine, startRoutine } from '../../../../../../src/server/routines';

/** Starts the run. */
export const POST = route('POST games/{game}/routines/{routine}', async ({ params }) =>
  startRoutine(params.game, params.routine),
);

export const DELETE = route('DELETE games/{game}/routines/{routine}', async ({ params }) =>
  removeRoutine(params.game, params.routine),
);
