import { addKeyFile } from '../../../../../../src/server/games';
import { answer, bodyChunks, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

/** A key file is the body, as it is. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => addKeyFile(numberParam((await params).game, 'game'), bodyChunks(request)));
