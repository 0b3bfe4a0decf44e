import { route } from '../../../src/server/http';
import { allRoutines } from '../../../src/server/routines';

/** The routines of every game. */
export const GET = route('GET routines', async () => allRoutines());
