export { runEvents } from './events';
export { cleanRuns, listRuns, resumeRun, runAnswer, startRun, stopRun } from './run-service';
