export { harvestPaths } from './harvest';
export { namesInList, parseNameList, type OddLine } from './name-list';
export { parsePattern, type WordLists } from './pattern';
export { quickHash, searchPattern } from './search';
export { HashTargets, keyOf } from './targets';
