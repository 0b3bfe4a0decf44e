export { findInsideRun } from './find-inside-run';
export { proveRun } from './prove-run';
export { scanRun } from './scan-run';
export { unlockRun } from './unlock-run';
