import { listFolders } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';

type Context = { params: Promise<{ game: string }> };

export const GET = (request: Request, { params }: Context) =>
  answer(async () =>
    listFolders(numberParam((await params).game, 'game'), new URL(request.url).searchParams.get('under') ?? ''),
  );
