import { addPattern, countPattern } from '../../../../../../src/server/games';
import { answer, numberParam } from '../../../../../../src/server/http';
import { patternEdit } from '../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Starts the search; with `?count`, only says how many paths the pattern stands for. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const edit = patternEdit.parse(await request.json());
    if (new URL(request.url).searchParams.has('count')) return countPattern(edit);
    return addPattern(numberParam((await params).game, 'game'), edit);
  });
