import { editChange } from '../../../../../../src/server/changes';
import { route } from '../../../../../../src/server/http';

export const PATCH = route('PATCH games/{game}/changes/{change}', async ({ params, body }) =>
  editChange(params.game, params.change, body),
);
