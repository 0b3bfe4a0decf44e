import { answer, numberParam } from '../../../../../../src/server/http';
import { setReference } from '../../../../../../src/server/records';
import { referenceEdit } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Declares what a field refers to; null takes it back. */
export const PUT = (request: Request, { params }: Context) =>
  answer(async () => setReference(numberParam((await params).game, 'game'), referenceEdit.parse(await request.json())));
