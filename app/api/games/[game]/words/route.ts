import { answer, bodyChunks, numberParam } from '../../../../../src/server/http';
import { wordEdit, wordsIn, wordsQuery, wordsReplace } from '../../../../../src/server/shapes';
import { listWords, replaceWords, setWord, startWordsIn } from '../../../../../src/server/words';

type Context = { params: Promise<{ game: string }> };

const queryOf = (request: Request) => Object.fromEntries(new URL(request.url).searchParams);

export const GET = (request: Request, { params }: Context) =>
  answer(async () => listWords(numberParam((await params).game, 'game'), wordsQuery.parse(queryOf(request))));

/** One text. */
export const PUT = (request: Request, { params }: Context) =>
  answer(async () => {
    const { key, text, ...pair } = wordEdit.parse(await request.json());
    await setWord(numberParam((await params).game, 'game'), pair, { key, text });
  });

/** Part of many texts. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(async () => {
    const { find, by, ...query } = wordsReplace.parse(await request.json());
    return replaceWords(numberParam((await params).game, 'game'), query, find, by);
  });

/** A file of texts is the body; `name` is what it is called. */
export const POST = (request: Request, { params }: Context) =>
  answer(async () => {
    const query = queryOf(request);
    const name = (query['name'] ?? 'texts.csv').slice(0, 200);
    return startWordsIn(numberParam((await params).game, 'game'), wordsIn.parse(query), name, bodyChunks(request));
  });
