import { answerBytes, numberParam } from '../../../../../../../src/server/http';
import { modPicture } from '../../../../../../../src/server/mods';

type Context = { params: Promise<{ game: string; mod: string }> };

export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, mod } = await params;
    return modPicture(numberParam(game, 'game'), numberParam(mod, 'mod'));
  });
