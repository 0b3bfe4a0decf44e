export { runEvents } from './events';
export { listRuns, resumeRun, startRun, stopRun } from './run-service';
