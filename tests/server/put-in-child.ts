/** Puts a build in, or takes it out, and ends itself by SIGKILL at a step: what a crash leaves is then looked at. */
import { putInRun, takeBackRun, watchSteps } from '../../src/server/put-back';
import { database } from '../../src/server/database';
import type { RunContext } from '../../src/server/runs/run-context';

const { gameId, input, kill, work } = JSON.parse(process.argv[2]!) as {
  gameId: number;
  input: Record<string, unknown>;
  /** Which step it does not outlive, counted from 0. */
  kill: number;
  work: 'put-in' | 'take-back';
};

let step = 0;
watchSteps((name) => {
  process.stdout.write(`${name}\n`);
  if (step++ === kill) process.kill(process.pid, 'SIGKILL');
});

const context: RunContext = {
  ...{ runId: 0, gameId, input, signal: new AbortController().signal },
  progress: () => {},
  log: () => {},
};
void (work === 'put-in' ? putInRun(context) : takeBackRun(context)).finally(() => database().close());
