import { listSearches, saveSearch } from '../../../../../src/server/entries';
import { answer, numberParam } from '../../../../../src/server/http';
import { searchEdit } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

export const GET = (_: Request, { params }: Context) =>
  answer(async () => listSearches(numberParam((await params).game, 'game')));

export const POST = (request: Request, { params }: Context) =>
  answer(async () => saveSearch(numberParam((await params).game, 'game'), searchEdit.parse(await request.json())));
