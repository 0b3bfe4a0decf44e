import { listPaths } from '../../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../../src/server/http';
import { listPart } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** The paths of a list, or of parts of it. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => listPaths(numberParam((await params).game, 'game'), listPart.parse(await request.json())));
