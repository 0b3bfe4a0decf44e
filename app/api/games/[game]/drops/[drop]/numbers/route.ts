import { countNumbers, numberedFolders } from '../../../../../../../src/server/changes';
import { answer, numberParam } from '../../../../../../../src/server/http';
import { numbersOrder } from '../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; drop: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, drop } = await params;
    const folder = new URL(request.url).searchParams.get('folder') ?? undefined;
    return numberedFolders(numberParam(game, 'game'), numberParam(drop, 'drop'), folder);
  });

export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const { game, drop } = await params;
    return countNumbers(numberParam(game, 'game'), numberParam(drop, 'drop'), numbersOrder.parse(await request.json()));
  });
