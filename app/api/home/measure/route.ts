import { startMeasure } from '../../../../src/server/home';
import { answer } from '../../../../src/server/http';

/** Adds up anew what is on disk. */
export const POST = () => answer(startMeasure);
