export { putInRun, startPutIn } from './put-in';
export { recoverInstalls } from './restore';
export { watchSteps } from './steps';
export { startTakeBack, takeBackRun } from './take-back';
