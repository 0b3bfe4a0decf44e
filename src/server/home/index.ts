export { deleteBuild } from './builds';
export { measuredHome, measureRun, startMeasure } from './measure-run';
export { startTidy, tidyRun } from './tidy-run';
