import { searchGameFile, searchSentFile } from '../../../../../../src/server/games';
import { answer, bodyChunks, numberParam } from '../../../../../../src/server/http';
import { keySearchOrder } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Looks for keys in a file of the game; with `?name`, in the body of the request. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const game = numberParam((await params).game, 'game');
    const name = new URL(request.url).searchParams.get('name');
    if (name !== null) return searchSentFile(game, name.slice(0, 200), bodyChunks(request));
    return searchGameFile(game, keySearchOrder.parse(await request.json()).file);
  });
