import { harvestNames } from '../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => harvestNames(numberParam((await params).game, 'game')));
