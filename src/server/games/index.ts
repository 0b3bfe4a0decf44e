export { pathInGameOf, pathsInGame, isEntryAt } from './entry-index';
export { takeUpText } from './found-index';
export { methodWords } from './method-words';
export {
  archiveFile,
  archiveRow,
  bytesOf,
  holdArchive,
  openVolumesOf,
  requireArchive,
  withArchive,
} from './archive-access';
export { isSheet } from './sheets';
export { mayLose } from './may-lose';
export { exportProfile, importProfile } from './profile-service';
export { addGame, forgetGame, gameAnswer, listGames, removeGame } from './game-service';
export { archiveOf, archivesInside, findInside } from './archive-service';
export { proofAnswer } from './proof-answer';
export { changeLoadOrder } from './load-order';
export { addNameList, addPattern, countPattern, harvestNames, removeNameList } from './names/name-service';
export { knownNames } from './names/known-names';
export { changeTestRules, testRulesOf } from './test-rules';
export { activeChanges, BESIDE_THE_GAME } from './active-changes';
export { changesStamp, memoizeByVersion } from './memoize-by-version';
export { isOfTheGame, settleNewFiles } from './new-files';
export { installedFileStatus } from './installed';
export { profileOf } from './load-order';
export { requireGame } from './require-game';
export { addKey, addKeyFile, removeKey } from './keys/key-service';
export { removeOldUploads, searchGameFile, searchSentFile } from './keys/key-search-service';
export { solveXorOf } from './keys/xor-service';
export { chooseRecipe } from './choose-recipe';
export { archiveBytes, hintsOfArchive, tryOnArchive } from './workbench';
export { keepSplit, splitsOf } from './splits';
