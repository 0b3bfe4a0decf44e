import { startMeasure } from '../../../../src/server/home';
import { route } from '../../../../src/server/http';

/** Adds up again what is on disk. */
export const POST = route('POST home/measure', async () => startMeasure());
