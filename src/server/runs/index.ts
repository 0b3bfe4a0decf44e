export { runEvents, announceViewing } from './events';
export { backgroundSource } from './background-source';
export { faultAnswer, inputOf, listRuns, logOf, resultOf, resumeRun, runOf, startRun, stopRun } from './run-service';
