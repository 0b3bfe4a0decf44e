export {
  changeBytes,
  editChange,
  listChanges,
  pictureOfChange,
  setUndone,
  soundOfChange,
  undoDrop,
} from './change-service';
export { takeChange } from './take-change';
export { addArrival, addInstead, listArrivals, newDrop, passOver, placeArrival, startBringIn } from './drop-service';
export { bringInRun } from './bring-in-run';
export { companionsOf } from './instead';
export { bringAlso, fitAgain, otherLanguages } from './again';
export { labelAsName } from './match-drop';
export { countNumbers, numbersOf } from './drop-numbers';
