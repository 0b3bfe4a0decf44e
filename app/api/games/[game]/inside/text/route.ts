import { answer, numberParam } from '../../../../../../src/server/http';
import { changeText, textPlaceOf } from '../../../../../../src/server/changes';
import { textOrder, textPlaceQuery } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** The text that a place inside a file lies in. */
export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = textPlaceQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return textPlaceOf(numberParam((await params).game, 'game'), query);
  });

/** Other words in its place. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => changeText(numberParam((await params).game, 'game'), textOrder.parse(await request.json())));
