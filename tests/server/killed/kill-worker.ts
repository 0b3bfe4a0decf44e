/** Runs whose worker is killed at some moment, and resumed by the next one. */
import { setTimeout as pause } from 'node:timers/promises';
import { database, RunModel } from '../../../src/server/database';
import { resumeRun, stopRun } from '../../../src/server/runs';
import type { RunAnswer } from '../../../src/server/shapes';
import { ended, startWorker } from '../support';

/** Work of which a person sees the outcome. */
export interface Job {
  readonly name: string;
  start(): Promise<RunAnswer>;
  /** What a person finds afterwards. It must be the same whether the worker was killed or not. */
  facts(run: RunModel): Promise<unknown>;
  /** Brings everything to where it was before, so that the job can be done again. */
  undo?(): Promise<void>;
}

/** A worker that can be killed and started again. */
export class MortalWorker {
  private child: Awaited<ReturnType<typeof startWorker>> | undefined;

  async begin(): Promise<void> {
    this.child = await startWorker();
  }

  /** As a power cut would: the next worker need not wait until the heartbeat of this one is too old. */
  async kill(): Promise<void> {
    const { child } = this;
    const gone = new Promise((resolve) => child!.once('exit', resolve));
    child!.kill('SIGKILL');
    await gone;
    await database().query(
      `update runs set heartbeat = heartbeat - interval '1 minute' where state in ('working', 'stopping')`,
    );
  }

  end(): void {
    this.child?.kill('SIGTERM');
  }
}

/**
 * Starts a job, kills the worker after some milliseconds, and lets the next one finish it.
 *
 * @returns the run, and whether it was under way when the worker died
 */
export async function killedAfter(
  worker: MortalWorker,
  job: Job,
  milliseconds: number,
): Promise<{ run: RunModel; wasUnderWay: boolean }> {
  const { id } = await job.start();
  await pause(milliseconds);
  await worker.kill();
  const { state } = (await RunModel.findByPk(id))!;
  await worker.begin();
  await interrupted(id);
  const after = (await RunModel.findByPk(id))!;
  if (after.state === 'interrupted') await resumeRun(id);
  return { run: await ended(id), wasUnderWay: state === 'working' };
}

/** Waits until the new worker has seen what the dead one left. */
async function interrupted(id: number): Promise<void> {
  for (let i = 0; i < 600; i++) {
    const { state, heartbeat } = (await RunModel.findByPk(id))!;
    // It is not left by anybody: it waits for its turn, was taken by the new worker, or has ended.
    const isFresh = heartbeat !== null && Date.now() - heartbeat.getTime() < 10_000;
    if (!['working', 'stopping'].includes(state) || isFresh) return;
    await pause(50);
  }
}

/** Runs that others started behind them: no one here looks at them. */
export async function stopOthers(gameIds: readonly number[]): Promise<void> {
  for (let i = 0; i < 600; i++) {
    const others = await RunModel.findAll({
      where: { gameId: [...gameIds], state: ['waiting', 'working', 'stopping', 'interrupted'] },
    });
    if (others.length === 0) return;
    for (const { id, state } of others) if (state !== 'stopping') await stopRun(id);
    await pause(100);
  }
  throw new Error('the runs behind do not end');
}
