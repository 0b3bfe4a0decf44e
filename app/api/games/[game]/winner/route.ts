import { entryDetails } from '../../../../../src/server/entries';
import { findWinner } from '../../../../../src/server/content';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const game = numberParam((await params).game, 'game');
    const { archive, n } = await findWinner(game, new URL(request.url).searchParams.get('path') ?? '');
    return entryDetails(game, archive, n);
  });
