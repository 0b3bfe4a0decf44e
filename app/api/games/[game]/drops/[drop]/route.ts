import { skipFile, undoDrop } from '../../../../../../src/server/changes';
import { route } from '../../../../../../src/server/http';

export const PATCH = route('PATCH games/{game}/drops/{drop}', async ({ params }) => undoDrop(params.game, params.drop));

export const DELETE = route('DELETE games/{game}/drops/{drop}', async ({ params }) =>
  skipFile(params.game, params.drop),
);
