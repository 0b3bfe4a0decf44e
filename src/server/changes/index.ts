export { changeBytes, listChanges, takeChange, setUndone } from './change-service';
