import { answer, numberParam } from '../../../../../../src/server/http';
import { wordsPair } from '../../../../../../src/server/shapes';
import { fillTwins } from '../../../../../../src/server/words';

type Context = { params: Promise<{ game: string }> };

/** Texts whose source is translated elsewhere take that text. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => fillTwins(numberParam((await params).game, 'game'), wordsPair.parse(await request.json())));
