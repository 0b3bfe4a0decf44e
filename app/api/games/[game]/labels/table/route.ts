import { answer, numberParam } from '../../../../../../src/server/http';
import { layLabelTable } from '../../../../../../src/server/labels';
import { labelTableOrder } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Says what a table would name; with `take`, names it. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () =>
    layLabelTable(numberParam((await params).game, 'game'), labelTableOrder.parse(await request.json())),
  );
