import { Op, QueryTypes } from 'sequelize';
import { FaultError, sayFault, type Fault } from '../../core/faults';
import { database, RunModel } from '../database';
import type { FaultAnswer, RunAnswer } from '../shapes';
import { announce } from './events';
import { BEHIND, FRONT, QUEUE, queue } from './queue';

/** Runs that go on beside the others. */
const QUEUES: Readonly<Record<string, string>> = {
  prove: BEHIND,
  'find-inside': BEHIND,
  'bring-in': FRONT,
  film: FRONT,
  estimate: FRONT,
  'words-in': FRONT,
  measure: FRONT,
};

/** Starts a run; the worker takes it from the queue. */
export async function startRun(order: {
  kind: string;
  title: string;
  gameId: number | null;
  input?: object;
}): Promise<RunAnswer> {
  const run = await RunModel.create({
    kind: order.kind,
    title: order.title,
    gameId: order.gameId,
    input: order.input ?? {},
  });
  await enqueue(run);
  return runAnswer(run);
}

async function enqueue(run: RunModel): Promise<void> {
  const boss = await queue('sender');
  await boss.send(QUEUES[run.kind] ?? QUEUE, { run: run.id }, { retryLimit: 0, expireInHours: 23 });
  await announce(run);
}

export async function listRuns(gameId?: number): Promise<RunAnswer[]> {
  const where = gameId === undefined ? {} : { gameId };
  const runs = await RunModel.findAll({ where, order: [['id', 'DESC']], limit: 100 });
  return runs.map(runAnswer);
}

/** @throws FaultError `not-found` */
export async function runOf(id: number): Promise<RunAnswer> {
  return runAnswer(await find(id));
}

/** Asks a run to stop; a waiting one is stopped at once. */
export async function stopRun(id: number): Promise<RunAnswer> {
  const run = await find(id);
  if (run.state === 'waiting' || run.state === 'interrupted')
    await run.update({ state: 'stopped', endedAt: new Date() });
  else if (run.state === 'working') await run.update({ state: 'stopping' });
  await announce(run);
  return runAnswer(run);
}

/** Takes up a run again that was interrupted, stopped or failed; what is done already is not done twice. */
export async function resumeRun(id: number): Promise<RunAnswer> {
  const run = await find(id);
  if (!['interrupted', 'stopped', 'failed'].includes(run.state)) {
    throw new FaultError({ code: 'conflict', what: 'only a run that ended early can be resumed', found: run.state });
  }
  await run.update({ state: 'waiting', fault: null, endedAt: null });
  await enqueue(run);
  return runAnswer(run);
}

/** Runs whose worker has not been heard of for this long are interrupted. */
const SILENT_MS = 12_000;

/** Marks the runs of dead workers. */
export async function cleanRuns(): Promise<void> {
  const silent = new Date(Date.now() - SILENT_MS);
  const [, runs] = await RunModel.update(
    { state: 'interrupted', endedAt: new Date() },
    { where: { state: { [Op.in]: ['working', 'stopping'] }, heartbeat: { [Op.lt]: silent } }, returning: true },
  );
  for (const run of runs) await announce(run);
}

/** A run that waits for longer than this is looked for in the queue. */
const LONG_WAIT_MS = 8_000;

/**
 * Queues runs again that wait and that no queue holds: a worker died between taking one and beginning it, or a server
 * before it had queued it. One that is queued twice is worked on once.
 */
export async function requeueLost(): Promise<void> {
  const rows = await database().query<{ id: number }>(
    `select r.id from runs r where r.state = 'waiting' and r.created_at < $1 and not exists (
       select from pgboss.job j where j.state in ('created', 'retry') and j.data = jsonb_build_object('run', r.id))`,
    { bind: [new Date(Date.now() - LONG_WAIT_MS)], type: QueryTypes.SELECT },
  );
  for (const { id } of rows) await enqueue(await find(id));
}

async function find(id: number): Promise<RunModel> {
  const run = await RunModel.findByPk(id);
  if (run !== null) return run;
  throw new FaultError({ code: 'not-found', what: `there is no run ${id}` });
}

export function faultAnswer(fault: Fault | null): FaultAnswer | null {
  return fault === null ? null : { code: fault.code, sentence: sayFault(fault) };
}

export function runAnswer(run: RunModel): RunAnswer {
  return {
    id: run.id,
    gameId: run.gameId,
    kind: run.kind,
    title: run.title,
    state: run.state,
    done: run.done,
    total: run.total,
    unit: run.unit,
    log: run.log,
    result: run.result as RunAnswer['result'],
    fault: faultAnswer(run.fault),
    createdAt: run.createdAt.toISOString(),
    startedAt: run.startedAt?.toISOString() ?? null,
    endedAt: run.endedAt?.toISOString() ?? null,
  };
}
