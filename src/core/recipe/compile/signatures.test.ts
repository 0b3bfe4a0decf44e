import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { compileRecipe } from './compile';
import { matchOfText } from './signatures';

const folder = join(__dirname, '../../../../recipes');
const texts = readdirSync(folder).map((name) => [name, readFileSync(join(folder, name), 'utf8')] as const);

test.each(texts)('%s looks for the same, read whole or by its lines of match alone', (_, text) => {
  const { match } = compileRecipe(text);
  expect(matchOfText(text) ?? []).toEqual(match);
});

test.each([
  ['none', 'recipe: a\ntitle: A\n'],
  ['one that is not YAML', 'match: { at: 0, bytes: "x"\ntitle: A\n'],
  ['a mask of another length', 'match: { at: 0, bytes: "ab", mask: "FF" }\n'],
  ['an unknown word', 'match: { at: 0, letters: "ab" }\n'],
])('of %s only reading all of it tells', (_, text) => {
  expect(matchOfText(text)).toBeUndefined();
});

test('lists, comments and empty lines belong to it, and what follows does not', () => {
  const text = 'recipe: a\nmatch:\n# either\n- { at: 0, bytes: "AB" }\n\n- { at: -2, bytes: "CD" }\npaths: "*.x"\n';
  expect(matchOfText(text)!.map(([one]) => [one!.at, one!.fromEnd, Buffer.from(one!.bytes).toString()])).toEqual([
    [0, false, 'AB'],
    [2, true, 'CD'],
  ]);
});
