import { route } from '../../../../../../src/server/http';
import { editMod, removeMod } from '../../../../../../src/server/mods';

export const PATCH = route('PATCH games/{game}/mods/{mod}', async ({ params, body }) =>
  editMod(params.game, params.mod, body),
);

export const DELETE = route('DELETE games/{game}/mods/{mod}', async ({ params }) => removeMod(params.game, params.mod));
