export { addTrayList, editTray, listTray, trayList } from './tray-service';
export { startTakeOut, takeOutRun, trayZip } from './take-out-run';
