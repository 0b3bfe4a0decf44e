import { route } from '../../../../../../src/server/http';
import { addLanguage, listLanguages } from '../../../../../../src/server/words';

/** The languages the game's menu shows. */
export const GET = route('GET games/{game}/words/languages', async ({ params }) => listLanguages(params.game));

/** A new one, made of one there is. */
export const POST = route('POST games/{game}/words/languages', async ({ params, body }) =>
  addLanguage(params.game, body),
);
