export { deleteBuild } from './builds';
export { homeAnswer } from './home-answer';
export { startTidy, tidyRun } from './tidy-run';
