export { findHints } from './find-hints';
export type { Hint, RecipeLines } from './hint';
export { randomness } from './randomness';
