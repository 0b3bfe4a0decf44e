/** The worker process: takes runs from its queues and works on them, one at a time of each queue. */
import { CancelledError, faultOf, isFaultError, sayFault } from '../core/faults';
import { migrate, RunModel } from '../server/database';
import { buildRun, putInRun, recoverInstalls, takeBackRun, estimateRun } from '../server/put-back';
import { removeOldUploads } from '../server/games';
import { keySearchRun } from '../server/games/keys/key-search-run';
import { namesRun } from '../server/games/names/names-run';
import { findInsideRun, proveRun, scanRun, unlockRun } from '../server/games/scan';
import { bringInRun, rebaseRun, renewRun } from '../server/changes';
import { filmRun } from '../server/forms/film';
import { measureRun, tidyRun } from '../server/home';
import { insideRun, linksRun } from '../server/inside';
import { bringModRun, shareRun } from '../server/mods';
import { recordsRun } from '../server/records';
import { routineRun } from '../server/routines';
import { takeOutRun } from '../server/take-out';
import { wordsInRun } from '../server/words';
import { announce, runEvents } from '../server/runs/events';
import { noteViewing } from '../server/runs/background-source';
import { queue } from '../server/runs/queue';
import type { RunSetting, RunWork } from '../server/runs/run-context';
import { cleanRuns, requeueLost } from '../server/runs/run-service';
import { QUEUES, RUNS, type RunInput, type RunKind, type RunNews, type RunResult } from '../server/shapes';

const WORK: { readonly [K in RunKind]: RunWork<K> } = {
  scan: scanRun,
  unlock: unlockRun,
  'find-inside': findInsideRun,
  prove: proveRun,
  names: namesRun,
  'key-search': keySearchRun,
  'search-inside': insideRun,
  links: linksRun,
  records: recordsRun,
  'bring-in': bringInRun,
  'take-out': takeOutRun,
  film: filmRun,
  build: buildRun,
  rebase: rebaseRun,
  renew: (context) => renewRun(context, buildRun),
  estimate: estimateRun,
  'words-in': wordsInRun,
  routine: routineRun,
  share: shareRun,
  'bring-mod': bringModRun,
  'put-in': putInRun,
  'take-back': takeBackRun,
  tidy: tidyRun,
  measure: measureRun,
};

const BEAT_MS = 400;

/** A run that starts is announced: the queues are looked at this often only for those whose news was lost. */
const POLL_SECONDS = 2;

/** Whether the news of a run says that it waits to be taken, or that news may have been lost. */
const isWaiting = (payload: string): boolean => {
  const { state } = JSON.parse(payload) as Partial<RunNews>;
  return state === undefined || state === 'waiting';
};

const MAX_LOG_LINES = 500;

async function work(runId: number): Promise<void> {
  // The worker that changes `waiting` to `working` owns the run; a job that is delivered twice finds it taken.
  const [count, [run]] = await RunModel.update(
    { state: 'working', startedAt: new Date(), heartbeat: new Date() },
    { where: { id: runId, state: 'waiting' }, returning: true },
  );
  if (count === 0 || run === undefined) return;
  await announce(run);
  const stop = new AbortController();
  const state = { done: run.done, total: run.total, unit: run.unit, log: [...run.log] };
  let beating = Promise.resolve();
  const keep = async (values: object) => {
    // What it was given may be large, and is not read again.
    const [, [now]] = await RunModel.update({ ...state, ...values }, { where: { id: runId }, returning: ['state'] });
    if (now === undefined) return undefined;
    const { gameId } = run;
    const { done, total, unit, log } = state;
    const lastLine = log.at(-1)?.text ?? null;
    await announce({ id: runId, gameId, state: now.state, done, total, unit, lines: log.length, lastLine });
    return now.state;
  };
  const beat = async () => {
    if ((await keep({ heartbeat: new Date() })) === 'stopping') stop.abort();
  };
  const timer = setInterval(() => {
    beating = beating
      .then(beat)
      .catch((error: unknown) => void process.stderr.write(`run ${runId}: ${String(error)}\n`));
  }, BEAT_MS);
  const last: (() => Promise<void>)[] = [];
  const setting: RunSetting = {
    runId,
    gameId: run.gameId ?? 0,
    signal: stop.signal,
    progress: (done, total, unit) => Object.assign(state, { done, total }, unit === undefined ? {} : { unit }),
    log: (text) => {
      state.log.push({ at: new Date().toISOString(), text });
      if (state.log.length > MAX_LOG_LINES) state.log.splice(1, state.log.length - MAX_LOG_LINES);
    },
    afterwards: (work) => void last.push(work),
  };
  let end: Parameters<typeof RunModel.update>[0];
  try {
    end = { state: 'done', result: await workOn(run.kind, run.input, setting) };
  } catch (error) {
    if (error instanceof CancelledError || (isFaultError(error) && error.fault.code === 'stopped'))
      end = { state: 'stopped' };
    else {
      const fault = faultOf(error);
      setting.log(sayFault(fault));
      if (!isFaultError(error))
        process.stderr.write(`run ${runId}: ${error instanceof Error ? error.stack : String(error)}\n`);
      end = { state: 'failed', fault };
    }
  } finally {
    clearInterval(timer);
    await beating;
  }
  await keep({ ...end, endedAt: new Date() });
  for (const one of last)
    await one().catch((error: unknown) => void process.stderr.write(`run ${runId}: ${String(error)}\n`));
}

async function workOn<K extends RunKind>(kind: K, input: object, setting: RunSetting): Promise<RunResult<K>> {
  const contract = RUNS[kind];
  const result = await WORK[kind]({ ...setting, input: contract.input.parse(input) as RunInput<K> });
  return contract.result.parse(result) as RunResult<K>;
}

/** Marks the runs of dead workers, queues those they lost, and rolls back what they left half-done in a game folder. */
async function clean(): Promise<void> {
  await cleanRuns();
  await requeueLost();
  await recoverInstalls((text) => process.stdout.write(`${text}\n`));
}

async function main(): Promise<void> {
  await migrate();
  const boss = await queue('worker');
  await clean();
  await removeOldUploads();
  const takers: string[] = [];
  for (const name of QUEUES)
    takers.push(
      await boss.work<{ run: number }>(name, { pollingIntervalSeconds: POLL_SECONDS }, async (jobs) => {
        for (const job of jobs) await work(job.data.run);
      }),
    );
  runEvents().on('viewing', noteViewing);
  runEvents().on('run', (payload: string) => {
    if (isWaiting(payload)) for (const taker of takers) boss.notifyWorker(taker);
  });
  const cleaning = setInterval(() => void clean().catch(() => {}), 5_000);
  process.stdout.write('worker ready\n');
  const leave = async () => {
    clearInterval(cleaning);
    await boss.stop({ graceful: false, wait: false }).catch(() => {});
    process.exit(0);
  };
  process.on('SIGINT', () => void leave());
  process.on('SIGTERM', () => void leave());
}

// A connection that breaks under a listener is not worth a worker.
process.on('unhandledRejection', (error) => process.stderr.write(`worker: ${String(error)}\n`));
if (require.main === module) {
  void main().catch((error: unknown) => {
    process.stderr.write(`worker: ${error instanceof Error ? error.stack : String(error)}\n`);
    process.exit(1);
  });
}
