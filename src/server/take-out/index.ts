export { editTray, listTray } from './tray-service';
export { startTakeOut, takeOutRun, trayZip } from './take-out-run';
