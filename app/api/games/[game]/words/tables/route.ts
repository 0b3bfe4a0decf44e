import { route } from '../../../../../../src/server/http';
import { listTables } from '../../../../../../src/server/words';

export const GET = route('GET games/{game}/words/tables', async ({ params }) => listTables(params.game));
