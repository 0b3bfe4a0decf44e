import { route } from '../../../../../src/server/http';
import { listRoutines, saveRoutine } from '../../../../../src/server/routines';

export const GET = route('GET games/{game}/routines', async ({ params }) => listRoutines(params.game));

export const POST = route('POST games/{game}/routines', async ({ params, body }) => saveRoutine(params.game, body));
