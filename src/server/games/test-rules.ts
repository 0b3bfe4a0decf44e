/** How builds of a game are checked and laid out, as its profile has it. */
import { sayRule } from '../../core/game';
import type { TestRulesAnswer, TestRulesEdit } from '../shapes';
import { profileOf } from './load-order';
import { requireGame } from './require-game';

export async function testRulesOf(gameId: number): Promise<TestRulesAnswer> {
  const { testRules, looseFolder } = profileOf(await requireGame(gameId));
  return { looseFolder, rules: testRules.map((rule) => ({ rule, title: sayRule(rule) })) };
}

export async function changeTestRules(gameId: number, edit: TestRulesEdit): Promise<TestRulesAnswer> {
  const game = await requireGame(gameId);
  const { rules, looseFolder, how } = edit;
  const profile = profileOf(game);
  await game.update({
    profile: {
      ...profile,
      ...(rules === undefined ? {} : { testRules: [...rules] }),
      ...(looseFolder === undefined ? {} : { looseFolder }),
      ...(how === undefined ? {} : { how }),
    },
  });
  return testRulesOf(gameId);
}
