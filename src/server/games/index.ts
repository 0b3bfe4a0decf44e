export { bytesOf, requireArchive, withArchive } from './archive-access';
export { addGame, gameAnswer, listGames, proofAnswer, removeGame, requireGame } from './game-service';
export { addKey, removeKey } from './key-service';
export { chooseRecipe } from './choose-recipe';
export { archiveBytes, hintsOfArchive, tryOnArchive } from './workbench';
