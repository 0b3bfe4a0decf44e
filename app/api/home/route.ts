import { measuredHome, startTidy } from '../../../src/server/home';
import { route } from '../../../src/server/http';

export const GET = route('GET home', async () => measuredHome());

/** Frees what nothing refers to. */
export const POST = route('POST home', async () => startTidy());
