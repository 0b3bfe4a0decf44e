export { KINDS, kindOf, mimeOf, type Kind } from './kinds';
export { SafePaths, type SafePath } from './safe-paths';
export { parseNameList } from './name-list';
