import { skipFile, undoDrop } from '../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../src/server/http';
import { dropEdit } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; drop: string }> };

export const PATCH = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, drop } = await params;
    dropEdit.parse(await request.json());
    return undoDrop(numberParam(game, 'game'), numberParam(drop, 'drop'));
  });

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, drop } = await params;
    return skipFile(numberParam(game, 'game'), numberParam(drop, 'drop'));
  });
