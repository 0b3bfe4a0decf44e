export { buildRun, startBuild } from './build-run';
export { startEstimate, estimateRun } from './estimate-run';
export { putInRun, recoverInstalls, startPutIn, startTakeBack, takeBackRun, watchSteps } from './install';
export { buildReport, putBackAnswer, sceneBytes } from './put-back-service';
