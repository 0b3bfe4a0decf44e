export { buildRun, startBuild } from './build-run';
export { startWays, waysRun } from './ways-run';
export { putInRun, recoverInstalls, startPutIn, startTakeBack, takeBackRun, watchSteps } from './install';
export { buildReport, putBackAnswer, sceneBytes } from './put-back-service';
