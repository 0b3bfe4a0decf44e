import { glancesAt } from '../../../../../src/server/entries';
import { requireArchive } from '../../../../../src/server/games';
import { answer, numberParam } from '../../../../../src/server/http';
import { glanceOrder } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** Several entries at a glance, as they come into view. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const game = numberParam((await params).game, 'game');
    const { entries } = glanceOrder.parse(await request.json());
    for (const archive of new Set(entries.map(([id]) => id))) await requireArchive(game, archive);
    return glancesAt(entries);
  });
