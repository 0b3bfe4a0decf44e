/** One file with a table of rows. */
import type { Dice } from '../../soak/dice';
import { makeFormat, recipeOf } from './format';
import type { MadeCase } from './made-case';
import { readMade } from './read-made';
import { writeMade } from './write-made';

export function tableCase(dice: Dice): MadeCase {
  const format = makeFormat(dice);
  return {
    format,
    recipe: recipeOf(format),
    write: (entries, throws) => ({ 'made.bin': writeMade(format, entries, throws) }),
    read: (files) => readMade(format, files['made.bin']!),
  };
}
