import { listFolders } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = new URL(request.url).searchParams;
    const archive = query.get('archive');
    return listFolders(
      numberParam((await params).game, 'game'),
      query.get('under') ?? '',
      archive === null ? undefined : numberParam(archive, 'archive'),
    );
  });
