export { addTrayList, editTray, listTray, trayList } from './tray-service';
export { repeatTakeOut, startTakeOut } from './start';
export { clashesOf } from './clashes';
export { takeOutRun } from './take-out-run';
export { downloadZip } from './into-zip';
export { stepOfTakeOut, takeAgain } from './take-again';
