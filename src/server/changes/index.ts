export { changeBytes, listChanges, pictureOfChange, soundOfChange, takeChange, setUndone } from './change-service';
