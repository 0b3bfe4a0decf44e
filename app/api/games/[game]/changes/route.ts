import { listChanges, removeEntry } from '../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../src/server/http';
import { MOST_LISTED_CHANGES, removeOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listChanges(numberParam((await params).game, 'game'), MOST_LISTED_CHANGES));

/** An entry is to be gone from the game. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () =>
    removeEntry(numberParam((await params).game, 'game'), removeOrder.parse(await request.json()).remove),
  );
