import { measuredHome, startTidy } from '../../../src/server/home';
import { answer } from '../../../src/server/http';

export const GET = () => answer(measuredHome);

/** Frees what nothing refers to. */
export const POST = () => answer(startTidy);
