import { FaultError } from '../../../../../../../../../src/core/faults';
import { asItself, entrySubject, formOf } from '../../../../../../../../../src/server/forms';
import { requireArchive } from '../../../../../../../../../src/server/games';
import { answerBytes, numberParam } from '../../../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string; n: string; format: string }> };

export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const { game, archive, n, format } = await params;
    const { id } = await requireArchive(numberParam(game, 'game'), numberParam(archive, 'archive'));
    const subject = asItself(await entrySubject(id, numberParam(n, 'entry')));
    const file = await formOf(subject)?.asFile?.(subject, format, request.signal);
    if (file !== undefined) return file;
    throw new FaultError({
      code: 'wrong-kind',
      entry: subject.path,
      what: `entries of its kind are not written as ${format}`,
    });
  });
