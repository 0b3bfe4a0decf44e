export { bytesOf, requireArchive, withArchive } from './archive-access';
export { addGame, gameAnswer, listGames, proofAnswer, removeGame } from './game-service';
export { changeLoadOrder } from './load-order';
export { requireGame } from './require-game';
export { addKey, addKeyFile, removeKey } from './key-service';
export { chooseRecipe } from './choose-recipe';
export { archiveBytes, hintsOfArchive, tryOnArchive } from './workbench';
