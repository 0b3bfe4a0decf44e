import type { How } from '../../server/shapes';

/** Ways to build, in the middle of a sentence. */
export const HOW_WORDS: Readonly<Record<How, string>> = {
  patch: 'a small archive that loads last',
  keep: 'archives rebuilt in place',
  append: 'archives rebuilt, what no longer fits at the end',
  afresh: 'archives rebuilt from scratch',
  loose: 'loose files beside the game',
};
