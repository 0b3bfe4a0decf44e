export { agreeToMod, bringModRun, startBringMod } from './bring-run';
export { editMod, keepPicture, listMods, modPicture, removeMod, sharedFile } from './mod-service';
export { shareRun, startShare } from './share-run';
