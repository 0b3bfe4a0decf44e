import { homeAnswer, startTidy } from '../../../src/server/home';
import { answer } from '../../../src/server/http';

export const GET = () => answer(homeAnswer);

/** Frees what nothing refers to. */
export const POST = () => answer(startTidy);
