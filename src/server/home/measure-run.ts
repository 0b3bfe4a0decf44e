/** Adds up what the home holds, file by file: a run, for there may be millions. */
import { Op } from 'sequelize';
import { RunModel } from '../database';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { HomeAnswer, MeasuredHome, RunAnswer, RunResult } from '../shapes';
import { homeAnswer } from './home-answer';

const KIND = 'measure';

/** Starts adding up. */
export function startMeasure(): Promise<RunAnswer> {
  return startRun(KIND, { title: 'Measuring what is on disk', gameId: null, input: {} });
}

export async function measureRun({ runId, signal, progress }: RunContext<'measure'>): Promise<RunResult<'measure'>> {
  const home = await homeAnswer((files) => progress(files, 0, 'files'), signal);
  // Only the newest is ever asked for.
  await RunModel.destroy({ where: { kind: KIND, id: { [Op.lt]: runId }, endedAt: { [Op.not]: null } } });
  return home;
}

/** What was found when it was added up last; nothing before the first time. */
export async function measuredHome(): Promise<MeasuredHome> {
  const run = await RunModel.findOne({ where: { kind: KIND, state: 'done' }, order: [['id', 'DESC']] });
  return { home: run === null ? null : (run.result as HomeAnswer), at: run?.endedAt?.toISOString() ?? null };
}
