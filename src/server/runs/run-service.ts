import { literal, Op, QueryTypes } from 'sequelize';
import type { Literal } from 'sequelize/types/utils';
import { FaultError, sayFault, type Fault } from '../../core/faults';
import { database, RunModel } from '../database';
import {
  QUEUES,
  RUN_KINDS,
  RUNS,
  type FaultAnswer,
  type LogLine,
  type RunAnswer,
  type RunInput,
  type RunKind,
  type RunOrder,
  type RunResult,
} from '../shapes';
import { announce } from './events';
import { queue } from './queue';

/**
 * Columns of a run for an answer. What it was given and its log may be large, and are left out but for the log's last line.
 */
const COLUMNS = {
  exclude: ['input', 'log'],
  include: [
    [literal('jsonb_array_length(log)'), 'lines'],
    [literal(`log -> -1 ->> 'text'`), 'lastLine'],
  ] as [Literal, string][],
};

/** Starts a run; the worker takes it from the queue. */
export async function startRun<K extends RunKind>(
  kind: K,
  order: { readonly title: string; readonly gameId: number | null; readonly input: RunOrder<K> },
): Promise<RunAnswer<K>> {
  const input = RUNS[kind].input.parse(order.input);
  const run = await RunModel.create({ kind, title: order.title, gameId: order.gameId, input });
  await enqueue(run);
  return runAnswer(await find(run.id)) as RunAnswer<K>;
}

async function enqueue(run: RunModel): Promise<void> {
  const boss = await queue('sender');
  await boss.send(RUNS[run.kind].queue, { run: run.id }, { retryLimit: 0, expireInHours: 23 });
  await announce(run);
}

/** The newest runs, of one game or of all. */
export async function listRuns(gameId?: number): Promise<RunAnswer[]> {
  const where = { kind: RUN_KINDS, ...(gameId === undefined ? {} : { gameId }) };
  const runs = await RunModel.findAll({ attributes: COLUMNS, where, order: [['id', 'DESC']], limit: 100 });
  return runs.map(runAnswer);
}

/** @throws FaultError `not-found` */
export async function runOf(id: number): Promise<RunAnswer> {
  return runAnswer(await find(id));
}

/** @throws FaultError `not-found` */
export async function logOf(id: number): Promise<LogLine[]> {
  const run = await RunModel.findByPk(id, { attributes: ['log'] });
  if (run === null) throw missing(id);
  return run.log;
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
       select from pgboss.job j where j.state in ('created', 'retry') and j.name = any($2)
         and j.data = jsonb_build_object('run', r.id))`,
    { bind: [new Date(Date.now() - LONG_WAIT_MS), QUEUES], type: QueryTypes.SELECT },
  );
  for (const { id } of rows) await enqueue(await find(id));
}

async function find(id: number): Promise<RunModel> {
  const run = await RunModel.findOne({ where: { id, kind: RUN_KINDS }, attributes: COLUMNS });
  if (run === null) throw missing(id);
  return run;
}

function missing(id: number): FaultError {
  return new FaultError({ code: 'not-found', what: `there is no run ${id}` });
}

/** What a run of this kind was given. @throws FaultError `not-found` when there is none of that kind in the game */
export async function inputOf<K extends RunKind>(kind: K, gameId: number, id: number): Promise<RunInput<K>> {
  const run = await RunModel.findOne({ where: { id, gameId, kind }, attributes: ['input'] });
  if (run === null) throw missing(id);
  return RUNS[kind].input.parse(run.input) as RunInput<K>;
}

/** What a run of this kind gave back. @throws FaultError `not-found` when there is none that is done */
export async function resultOf<K extends RunKind>(kind: K, gameId: number, id: number): Promise<RunResult<K>> {
  const run = await RunModel.findOne({ where: { id, gameId, kind, state: 'done' }, attributes: ['result'] });
  if (run === null) throw missing(id);
  return RUNS[kind].result.parse(run.result) as RunResult<K>;
}

export function faultAnswer(fault: Fault | null): FaultAnswer | null {
  return fault === null ? null : { code: fault.code, sentence: sayFault(fault) };
}

/** @param run with the columns of {@link COLUMNS} */
function runAnswer(run: RunModel): RunAnswer {
  // What an earlier version gave back may lack something: then nothing is shown of it.
  const { data: result = null } = RUNS[run.kind].result.safeParse(run.result);
  const counted = run as RunModel & { get(column: 'lines'): number; get(column: 'lastLine'): string | null };
  return {
    id: run.id,
    gameId: run.gameId,
    kind: run.kind,
    title: run.title,
    state: run.state,
    done: run.done,
    total: run.total,
    unit: run.unit,
    lines: counted.get('lines'),
    lastLine: counted.get('lastLine'),
    result,
    fault: faultAnswer(run.fault),
    createdAt: run.createdAt.toISOString(),
    startedAt: run.startedAt?.toISOString() ?? null,
    endedAt: run.endedAt?.toISOString() ?? null,
  } as RunAnswer;
}
