export { buildRun, startBuild } from './build-run';
export { putInRun, recoverInstalls, startPutIn, startTakeBack, takeBackRun } from './install-run';
export { putBackAnswer, sceneBytes } from './put-back-service';
