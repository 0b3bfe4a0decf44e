import { route } from '../../../../../../src/server/http';
import { listRecordTables, startRecords } from '../../../../../../src/server/records';

export const GET = route('GET games/{game}/records/tables', async ({ params }) => listRecordTables(params.game));

/** Gathers the records of the game again. */
export const POST = route('POST games/{game}/records/tables', async ({ params }) => startRecords(params.game));
