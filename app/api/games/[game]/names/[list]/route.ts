import { removeNameList } from '../../../../../../src/server/games';
import { route } from '../../../../../../src/server/http';

export const DELETE = route('DELETE games/{game}/names/{list}', async ({ params }) =>
  removeNameList(params.game, params.list),
);
