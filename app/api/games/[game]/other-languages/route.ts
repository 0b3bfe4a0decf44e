import { otherLanguages } from '../../../../../src/server/changes';
import { route } from '../../../../../src/server/http';

export const GET = route('GET games/{game}/other-languages', async ({ params, query }) => {
  const { path } = query;
  return otherLanguages(params.game, path);
});
