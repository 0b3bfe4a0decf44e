import { countNumbers, numberedFolders } from '../../../../../../../src/server/changes';
import { route } from '../../../../../../../src/server/http';

export const GET = route('GET games/{game}/drops/{drop}/numbers', async ({ params, query }) =>
  numberedFolders(params.game, params.drop, query.folder),
);

export const POST = route('POST games/{game}/drops/{drop}/numbers', async ({ params, body }) =>
  countNumbers(params.game, params.drop, body),
);
