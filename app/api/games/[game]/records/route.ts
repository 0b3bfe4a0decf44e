import { route } from '../../../../../src/server/http';
import { listRecords } from '../../../../../src/server/records';
import { setCell } from '../../../../../src/server/changes';

export const GET = route('GET games/{game}/records', async ({ params, query }) => listRecords(params.game, query));

/** Writes one value. */
export const PATCH = route('PATCH games/{game}/records', async ({ params, body }) => setCell(params.game, body));
