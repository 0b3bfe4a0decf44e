import { levelOf, pictureOfEntry } from '../../../../../../../../src/server/forms';
import { requireArchive } from '../../../../../../../../src/server/games';
import { answerLevel, numberParam } from '../../../../../../../../src/server/http';
import { levelQuery } from '../../../../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string; archive: string; n: string }> };

export const GET = (request: Request, { params }: Context) =>
  answerLevel(async () => {
    const { game, archive, n } = await params;
    const row = await requireArchive(numberParam(game, 'game'), numberParam(archive, 'archive'));
    const level = levelQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return levelOf((await pictureOfEntry(row.id, numberParam(n, 'entry'))).picture, level);
  });
