import { choicesOf, convertArrival, passOver, placeArrival } from '../../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../../src/server/http';
import { arrivalEdit } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; drop: string; file: string }> };

const numbers = async ({ params }: Context) => {
  const { game, drop, file } = await params;
  return [numberParam(game, 'game'), numberParam(drop, 'drop'), numberParam(file, 'file')] as const;
};

export const PATCH = (request: Request, context: Context) =>
  answer(async () => {
    const edit = arrivalEdit.parse(await request.json());
    const which = await numbers(context);
    return 'film' in edit ? convertArrival(...which, edit.film) : placeArrival(...which, edit.path);
  });

/** What is to be chosen before a film is converted. */
export const GET = (_: Request, context: Context) => answer(async () => choicesOf(...(await numbers(context))));

export const DELETE = (_: Request, context: Context) => answer(async () => passOver(...(await numbers(context))));
