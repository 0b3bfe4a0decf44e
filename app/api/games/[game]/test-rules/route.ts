import { changeTestRules, testRulesOf } from '../../../../../src/server/games';
import { answer, numberParam } from '../../../../../src/server/http';
import { testRulesEdit } from '../../../../../src/server/shapes';

type Context = { params: Promise<{ game: string }> };

/** The rules a build is checked by, for a game that has no stand-in. */
export const GET = (_: Request, { params }: Context) =>
  answer(async () => testRulesOf(numberParam((await params).game, 'game')));

export const PUT = (request: Request, { params }: Context) =>
  answer(async () =>
    changeTestRules(numberParam((await params).game, 'game'), testRulesEdit.parse(await request.json())),
  );
