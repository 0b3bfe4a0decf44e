import { answer, bodyChunks, numberParam } from '../../../../../src/server/http';
import { listMods, startBringMod } from '../../../../../src/server/mods';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listMods(numberParam((await params).game, 'game')));

/** The mod file is the body; `name` is what it is called. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const name = new URL(request.url).searchParams.get('name') ?? 'a mod file';
    return startBringMod(numberParam((await params).game, 'game'), name.slice(0, 200), bodyChunks(request));
  });
