import { companionsOf } from '../../../../../src/server/changes';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/instead', async ({ params, query }) => {
  const { path, from } = query;
  return companionsOf(params.game, path, from);
});
