export { bytesOf, requireArchive, withArchive } from './archive-access';
export { addGame, gameAnswer, listGames, proofAnswer, removeGame } from './game-service';
export { changeLoadOrder } from './load-order';
export {
  addNameList,
  addPattern,
  countPattern,
  harvestNames,
  removeNameList,
} from './names/name-service';
export { knownNames } from './names/known-names';
export { requireGame } from './require-game';
export { addKey, addKeyFile, removeKey } from './key-service';
export { chooseRecipe } from './choose-recipe';
export { archiveBytes, hintsOfArchive, tryOnArchive } from './workbench';
