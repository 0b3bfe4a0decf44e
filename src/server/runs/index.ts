export { runEvents } from './events';
export { faultAnswer, inputOf, listRuns, logOf, resultOf, resumeRun, runOf, startRun, stopRun } from './run-service';
