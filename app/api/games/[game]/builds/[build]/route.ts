import { deleteBuild } from '../../../../../../src/server/home';
import { route } from '../../../../../../src/server/http';

export const DELETE = route('DELETE games/{game}/builds/{build}', async ({ params }) => {
  await deleteBuild(params.game, params.build);
});
