import { FaultError } from '../../../../../src/core/faults';
import { answer, numberParam } from '../../../../../src/server/http';
import { resumeRun, stopRun } from '../../../../../src/server/runs';

type Context = { params: Promise<{ run: string; action: string }> };

export const POST = (_: Request, { params }: Context) =>
  answer(async () => {
    const { run, action } = await params;
    if (action === 'stop') return stopRun(numberParam(run, 'run'));
    if (action === 'resume') return resumeRun(numberParam(run, 'run'));
    throw new FaultError({ code: 'not-found', what: `a run cannot ${action}` });
  });
