import { passOver, placeArrival } from '../../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../../src/server/http';
import { arrivalEdit } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; drop: string; file: string }> };

const numbers = async ({ params }: Context) => {
  const { game, drop, file } = await params;
  return [numberParam(game, 'game'), numberParam(drop, 'drop'), numberParam(file, 'file')] as const;
};

export const PATCH = (request: Request, context: Context) =>
  answer(async () => placeArrival(...(await numbers(context)), arrivalEdit.parse(await request.json()).path));

export const DELETE = (_: Request, context: Context) => answer(async () => passOver(...(await numbers(context))));
