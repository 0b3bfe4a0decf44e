import { findInside } from '../../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string }> };

/** Looks for pictures, sounds and streams inside a file no recipe knows. */
export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, archive } = await params;
    return findInside(numberParam(game, 'game'), numberParam(archive, 'archive'));
  });
