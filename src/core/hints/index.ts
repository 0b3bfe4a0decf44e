export { findHints, type Hint, type RecipeLines } from './find-hints';
export { randomness } from './randomness';
