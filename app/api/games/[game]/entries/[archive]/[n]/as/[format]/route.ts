import { z } from 'zod';
import { PICTURE_OUT } from '../../../../../../../../../src/core/forms/picture/out-formats';
import { pictureFileAs } from '../../../../../../../../../src/server/forms';
import { requireArchive } from '../../../../../../../../../src/server/games';
import { answerBytes, numberParam } from '../../../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string; n: string; format: string }> };

const format = z.enum(PICTURE_OUT);

export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const given = await params;
    const row = await requireArchive(numberParam(given.game, 'game'), numberParam(given.archive, 'archive'));
    return pictureFileAs(row.id, numberParam(given.n, 'entry'), format.parse(given.format), request.signal);
  });
