export { runEvents, sayLook } from './events';
export { givingWay } from './giving-way';
export { faultAnswer, inputOf, listRuns, logOf, resultOf, resumeRun, runOf, startRun, stopRun } from './run-service';
