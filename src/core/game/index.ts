export {
  declaredKind,
  guessFromHead,
  hasSignature,
  isPcxHeader,
  isSgiHeader,
  isSvg,
  kindOf,
  looseKind,
  mimeOf,
} from './kinds';
export { KIND_NAMES, KINDS, type Kind } from './kind-names';
export { SafePaths, type SafePath } from './safe-paths';
export { DEFAULT_ORDER, inLoadOrder, loadOrderRule, type LoadOrderRule } from './load-order';
export {
  isProgram,
  isVersionFile,
  versionInProgram,
  versionInText,
  versionOfFile,
  type FoundVersion,
} from './build-version';
export { gameProfile, HOWS, profileFile, type GameProfile, type How, type ProfileFile } from './profile';
export {
  COUNTINGS,
  matchFile,
  matchNumbers,
  type Counting,
  type DroppedFile,
  type FileMatch,
  type MatchCandidate,
  type MatchChoice,
} from './match-files';
export {
  brokenRules,
  sayRule,
  testRule,
  type BrokenRule,
  type RuledEntry,
  type TestRule,
  type TestRuleName,
} from './test-rules';
export { MOD_MANIFEST, modFile, MOSTLY_THE_GAMES, type ModChange, type ModFile } from './mod-file';
export { pairCompanions, type Pair } from './pair-companions';
