/** A whole way in one run: out, changed, built, tested and in. The first step that fails ends it. */
import { createReadStream } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { join, relative } from 'node:path';
import { FaultError, throwIfStopped } from '../../core/faults';
import { addIncomingFile, bringInRun, newDrop, skipFile } from '../changes';
import { BuildModel, InstallModel, RunModel } from '../database';
import { buildRun, putInRun, takeBackRun } from '../put-back';
import type { RunContext, RunSetting } from '../runs/run-context';
import type { RoutineStep, RunInput, RunResult } from '../shapes';
import { underRoots } from '../storage';
import { takeAgain } from '../take-out';

type StepOf<Do extends RoutineStep['do']> = Extract<RoutineStep, { do: Do }>;

const SAYS: Readonly<Record<RoutineStep['do'], string>> = {
  'take-out': 'Taking out',
  'bring-in': 'Bringing back',
  build: 'Building and testing',
  'put-in': 'Putting in',
};

export async function routineRun(context: RunContext<'routine'>): Promise<RunResult<'routine'>> {
  const { steps } = context.input;
  const memory = new Memory(context);
  for (const [i, step] of steps.entries()) {
    // A run that is resumed goes on behind the steps it has done.
    if (i < memory.results.length) continue;
    throwIfStopped(context.signal);
    context.log(`${i + 1} of ${steps.length}: ${SAYS[step.do]}`);
    await memory.add({ do: step.do, ...(await work(step, context, memory)) });
  }
  return { steps: memory.results };
}

type Kept = RunInput<'routine'>['memory'];

/** What a routine has done, kept with its run so that the next worker can resume it. */
class Memory {
  private kept: Kept;

  constructor(private readonly context: RunContext<'routine'>) {
    this.kept = context.input.memory;
  }
  /** Results of the steps that are done. */
  get results(): Kept['results'] {
    return this.kept.results;
  }
  get begun(): Kept['begun'] {
    return this.kept.begun;
  }

  add = (result: Kept['results'][number]) => this.keep({ results: [...this.results, result] });
  begin = (begun: NonNullable<Kept['begun']>) => this.keep({ results: this.results, begun });

  private async keep(kept: Kept): Promise<void> {
    this.kept = kept;
    const { runId: id, input } = this.context;
    await RunModel.update({ input: { ...input, memory: kept } }, { where: { id } });
  }
}

function work(step: RoutineStep, context: RunSetting, memory: Memory): Promise<object> {
  switch (step.do) {
    case 'take-out':
      return takeAgain(context, step.order, step.paths);
    case 'bring-in':
      return bringFolder(step, context, memory);
    case 'build':
      return build(step, context);
    case 'put-in':
      return putIn(context);
  }
}

/** The files of a folder, as if they were dropped; what was in a drop of before is replaced by what came of this one. */
async function bringFolder({ folder }: StepOf<'bring-in'>, context: RunSetting, memory: Memory): Promise<object> {
  const { begun } = memory;
  // A resumed run continues its import: files that a person has settled meanwhile are changes already, and stay.
  const dropId = begun?.isWhole === true ? begun.dropId : await addFolder(folder, context, memory);
  const result = await bringInRun({ ...context, input: { dropId, alone: false } });
  if (result.left > 0)
    throw new FaultError({
      code: 'conflict',
      file: folder,
      what: `${result.left} of its files ${result.left === 1 ? 'needs' : 'need'} a decision`,
      hint: 'Change shows which, and why. Settle them, then run the routine again.',
    });
  return result;
}

/** Adds all files of a folder to a new import. @returns its number */
async function addFolder(folder: string, { gameId, signal }: RunSetting, memory: Memory): Promise<number> {
  const real = await underRoots(folder);
  const facts = await stat(real).catch(() => undefined);
  if (facts?.isDirectory() !== true)
    throw new FaultError({ code: 'not-found', file: folder, what: 'the folder of the edited files is not there' });
  // An import whose worker died while files were added has no changes yet, only files that wait.
  if (memory.begun !== undefined) await skipFile(gameId, memory.begun.dropId);
  const { id: dropId } = await newDrop(gameId);
  await memory.begin({ dropId, isWhole: false });
  for (const file of await readdir(real, { recursive: true, withFileTypes: true })) {
    throwIfStopped(signal);
    if (!file.isFile() || file.name.startsWith('.')) continue;
    const path = join(file.parentPath, file.name);
    await addIncomingFile(gameId, dropId, { name: relative(real, path), bytes: createReadStream(path) });
  }
  await memory.begin({ dropId, isWhole: true });
  return dropId;
}

async function build({ how, archives }: StepOf<'build'>, context: RunSetting): Promise<object> {
  const result = await buildRun({ ...context, input: { how, archives: archives ?? {} } });
  if (result.started) return result;
  throw new FaultError({
    code: 'conflict',
    what: `the game would not start with build #${result.number}`,
    hint: 'Put back shows what the test run says.',
  });
}

/** The newest build; one that is in is taken out first. */
async function putIn(context: RunSetting): Promise<object> {
  const { gameId } = context;
  const newest = await BuildModel.findOne({ where: { gameId }, order: [['number', 'DESC']] });
  if (newest === null) throw new FaultError({ code: 'conflict', what: 'nothing is built yet' });
  for (const { id, buildId } of await InstallModel.findAll({ where: { gameId, state: 'in' } })) {
    if (buildId === newest.id) return { install: id };
    await takeBackRun({ ...context, input: { install: id, leave: false } });
  }
  return putInRun({ ...context, input: { build: newest.id } });
}
