import { editChange } from '../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../src/server/http';
import { changeEdit } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; change: string }> };

export const PATCH = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, change } = await params;
    return editChange(numberParam(game, 'game'), numberParam(change, 'change'), changeEdit.parse(await request.json()));
  });
