/** Puts a build in, or takes it out, and ends itself by SIGKILL at a step: what a crash leaves is then looked at. */
import { putInRun, takeBackRun, watchSteps } from '../../src/server/put-back';
import { database } from '../../src/server/database';
import type { RunSetting } from '../../src/server/runs/run-context';

const { gameId, input, kill } = JSON.parse(process.argv[2]!) as {
  gameId: number;
  input: { build: number } | { install: number; leave: boolean };
  /** Which step it does not outlive, counted from 0. */
  kill: number;
};

let step = 0;
watchSteps((name) => {
  process.stdout.write(`${name}\n`);
  if (step++ === kill) process.kill(process.pid, 'SIGKILL');
});

const setting: RunSetting = {
  ...{ runId: 0, gameId, signal: new AbortController().signal },
  progress: () => {},
  log: () => {},
};
void ('build' in input ? putInRun({ ...setting, input }) : takeBackRun({ ...setting, input })).finally(() =>
  database().close(),
);
