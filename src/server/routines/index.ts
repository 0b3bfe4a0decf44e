export { listRoutines, allRoutines, removeRoutine, saveRoutine, startRoutine } from './routine-service';
export { routineRun } from './routine-run';
