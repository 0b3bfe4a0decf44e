import { deleteBuild } from '../../../../../../src/server/home';
import { answer, numberParam } from '../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; build: string }> };

export const DELETE = (_: Request, { params }: Context) =>
  answer(async () => {
    const { game, build } = await params;
    await deleteBuild(numberParam(game, 'game'), numberParam(build, 'build'));
  });
