import { startRenew } from '../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

/** Brings the changes to the game as it is now, and builds. */
export const POST = (_: Request, { params }: Context) =>
  answer(async () => startRenew(numberParam((await params).game, 'game')));
