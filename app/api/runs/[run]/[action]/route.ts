import { FaultError } from '../../../../../src/core/faults';
import { route } from '../../../../../src/server/http';
import { resumeRun, stopRun } from '../../../../../src/server/runs';

export const POST = route('POST runs/{run}/{action}', async ({ params: { run, action } }) => {
  if (action === 'stop') return stopRun(run);
  if (action === 'resume') return resumeRun(run);
  throw new FaultError({ code: 'not-found', what: `a run cannot ${action}` });
});
