import { answer, numberParam } from '../../../../../src/server/http';
import { linksOf, startLinks } from '../../../../../src/server/inside';

type Context = { params: Promise<{ game: string }> };

/** What an entry names and what names it. */
export const GET = (request: Request, { params }: Context) =>
  answer(async () =>
    linksOf(numberParam((await params).game, 'game'), new URL(request.url).searchParams.get('path') ?? ''),
  );

/** Starts to find out what names what. */
export const POST = (_: Request, { params }: Context) =>
  answer(async () => startLinks(numberParam((await params).game, 'game')));
