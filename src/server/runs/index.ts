export { runEvents } from './events';
export { faultAnswer, listRuns, resumeRun, runOf, startRun, stopRun } from './run-service';
