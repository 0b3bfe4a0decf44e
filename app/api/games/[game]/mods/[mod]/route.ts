import { answer, numberParam } from '../../../../../../src/server/http';
import { editMod, removeMod } from '../../../../../../src/server/mods';
import { modEdit } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; mod: string }> };

export const PATCH = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, mod } = await params;
    return editMod(numberParam(game, 'game'), numberParam(mod, 'mod'), modEdit.parse(await request.json()));
  });

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, mod } = await params;
    return removeMod(numberParam(game, 'game'), numberParam(mod, 'mod'));
  });
