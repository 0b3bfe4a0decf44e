export { CONTAINER_FORMATS, fontAs, fontContainer } from './containers';
export { coverageOf, lettersOf, missingLetters } from './coverage';
export { compareFonts, sayFontExpectation } from './fit-font';
export type { Font } from './font';
export { readOpenFont } from './open-font';
export type { FontOut } from './out-formats';
export { readRecipeFont, type PageOf } from './recipe-font';
