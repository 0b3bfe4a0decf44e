import { unfinishedImports } from '../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

/** Imports that were cut off while their files were sent. */
export const GET = (_: Request, { params }: Context) =>
  answer(async () => unfinishedImports(numberParam((await params).game, 'game')));
