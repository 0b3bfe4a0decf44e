export { changeSubject, editChange, listChanges, supersedeChange, setUndone, undoDrop } from './change-service';
export { keepBase } from './base';
export { takeChange } from './take-change';
export {
  addIncomingFile,
  addInstead,
  choicesOf,
  convertIncomingFile,
  listIncomingFiles,
  newDrop,
  skipFile,
  placeIncomingFile,
  startBringIn,
} from './drop-service';
export { unfinishedImports } from './import-files';
export { bringInRun } from './bring-in-run';
export { companionsOf } from './instead';
export { bringAlso, fitAgain, otherLanguages } from './again';
export { labelAsName } from './match-drop';
export { countNumbers, numberedFolders } from './drop-numbers';
export { addEntry, archivesForNew, removeEntry } from './new-and-gone';
export { rebaseRun } from './rebase-run';
export { renewRun, startRenew } from './renew-run';
export { changeText, textPlaceOf } from './text-in-file';
export { setCell } from './set-cell';
