import { compileRecipe } from '../../compile/compile';
import { bytesFollowPlace, splitChain } from './bound';

const recipeWith = (through: string, more = '') =>
  compileRecipe(`recipe: bound
title: Bound
revision: 1
numbers: little
match: { at: 0, bytes: BOND }
needs: { content: bytes(4) }
shapes:
  head: [{ field: magic, as: ascii(4), must: BOND }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }, { field: seed, as: u8, new: 7 }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size, through: ${through}${more} }
`);

test.each([
  ['[zlib]', false],
  ['[xor(content)]', false],
  ['["lcg-xor(row.seed)"]', false],
  ['["lcg-xor(crc32(entry.path))"]', false],
  ['["lcg-xor(entry.at)"]', true],
  ['["lcg-xor(entry.index)", zlib]', true],
  // The row says where it lies.
  ['["lcg-xor(row.at)", zlib]', true],
])('bytes that go through %s follow their place: %s', (through, follows) => {
  expect(bytesFollowPlace(recipeWith(through))).toBe(follows);
});

test('only the steps over the last that follows the place are done again', () => {
  const { entries } = recipeWith('["lcg-xor(entry.at)", zlib]');
  const { outer, inner } = splitChain(entries.stepsOf(entries.methods[0]!)!);
  expect(outer.map(({ codec }) => codec.name)).toEqual(['lcg-xor']);
  expect(inner.map(({ codec }) => codec.name)).toEqual(['zlib']);
});
