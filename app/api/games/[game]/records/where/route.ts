import { route } from '../../../../../../src/server/http';
import { whereIs } from '../../../../../../src/server/records';

export const GET = route('GET games/{game}/records/where', async ({ params, query }) => {
  const { value } = query;
  return whereIs(params.game, value);
});
