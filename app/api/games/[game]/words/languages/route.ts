import { answer, numberParam } from '../../../../../../src/server/http';
import { languageOrder } from '../../../../../../src/server/shapes';
import { addLanguage, listLanguages } from '../../../../../../src/server/words';

type Context = { params: Promise<{ game: string }> };

/** The languages the game's menu shows. */
export const GET = (_: Request, { params }: Context) =>
  answer(async () => listLanguages(numberParam((await params).game, 'game')));

/** A new one, made of one there is. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => addLanguage(numberParam((await params).game, 'game'), languageOrder.parse(await request.json())));
