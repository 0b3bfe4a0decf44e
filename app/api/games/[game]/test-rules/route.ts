import { changeTestRules, testRulesOf } from '../../../../../src/server/games';
import { route } from '../../../../../src/server/http';

/** The rules a build is checked by, for a game that has no stand-in. */
export const GET = route('GET games/{game}/test-rules', async ({ params }) => testRulesOf(params.game));

export const PUT = route('PUT games/{game}/test-rules', async ({ params, body }) => changeTestRules(params.game, body));
