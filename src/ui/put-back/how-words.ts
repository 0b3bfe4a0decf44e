import type { How } from '../../server/shapes';

/** Ways to build, in the middle of a sentence. */
export const HOW_WORDS: Readonly<Record<How, string>> = {
  patch: 'a small archive that loads last',
  keep: 'archives rebuilt in their spots',
  append: 'archives rebuilt, what grew at the end',
  afresh: 'archives rebuilt afresh',
  loose: 'loose files beside the game',
};
