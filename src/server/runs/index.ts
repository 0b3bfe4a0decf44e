export { runEvents } from './events';
export { faultAnswer, listRuns, resumeRun, startRun, stopRun } from './run-service';
