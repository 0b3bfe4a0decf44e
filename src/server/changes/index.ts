export { changeBytes, listChanges, pictureOfChange, takeChange, setUndone } from './change-service';
