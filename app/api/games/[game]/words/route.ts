import { bodyChunks, route } from '../../../../../src/server/http';
import { listWords, replaceWords, setWord, startWordsIn } from '../../../../../src/server/words';

export const GET = route('GET games/{game}/words', async ({ params, query }) => listWords(params.game, query));

/** One text. */
export const PUT = route('PUT games/{game}/words', async ({ params, body: { key, text, ...pair } }) =>
  setWord(params.game, pair, { key, text }),
);

/** Part of many texts. */
export const PATCH = route('PATCH games/{game}/words', async ({ params, body: { find, by, ...query } }) =>
  replaceWords(params.game, query, find, by),
);

/** A file of texts is the body; `name` is what it is called. */
export const POST = route('POST games/{game}/words', async ({ params, query: { name, ...order }, request }) =>
  startWordsIn(params.game, order, name, bodyChunks(request)),
);
