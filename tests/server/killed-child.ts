/** Does one thing of the server in a process that ends by SIGKILL on the way: what a crash leaves is then looked at. */
import { database } from '../../src/server/database';
import { removeGame } from '../../src/server/games';
import { putInRun, takeBackRun, watchSteps } from '../../src/server/put-back';
import type { RunSetting } from '../../src/server/runs/run-context';

const { gameId, input, kill } = JSON.parse(process.argv[2]!) as {
  gameId: number;
  /** A build to put in or to take out again; nothing deletes the game. */
  input?: { build: number } | { install: number; leave: boolean };
  /** Which step it does not outlive, counted from 0. A deletion has none: it is killed from outside. */
  kill?: number;
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
  afterwards: () => {},
};

function work(): Promise<unknown> {
  if (input === undefined) return removeGame(gameId);
  return 'build' in input ? putInRun({ ...setting, input }) : takeBackRun({ ...setting, input });
}
void work().finally(() => database().close());
