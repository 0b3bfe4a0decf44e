/**
 * Putting a build into the game folder, all or nothing. The install's row is the journal: it is written before anything in the
 * folder is touched, and a crash at any step is rolled back from it at the next start.
 */
import { access, constants, open, stat } from 'node:fs/promises';
import { dirname, join, posix } from 'node:path';
import { FaultError, faultOf, sayFault } from '../../../core/faults';
import { ArchiveModel, BuildModel, InstallModel } from '../../database';
import { requireGame } from '../../games';
import { startRun } from '../../runs';
import type { RunContext } from '../../runs/run-context';
import type { InstallFile, RunAnswer, RunResult } from '../../shapes';
import { hasBlob, underRoots, requireSpace } from '../../storage';
import { sha256OfFile } from '../../storage';
import { keepOriginal, newToken, stage, takePlace } from './place-file';
import { restore } from './restore';
import { reached } from './steps';

export async function startPutIn(gameId: number, buildId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const build = await BuildModel.findOne({ where: { gameId, id: buildId } });
  if (build === null) throw new FaultError({ code: 'not-found', what: 'there is no such build' });
  if (build.report !== null && !build.report.started) {
    throw new FaultError({
      code: 'conflict',
      what: 'the game would not start with this build',
      hint: 'Look at what the test run says, mend the change and build again.',
    });
  }
  const there = await InstallModel.count({ where: { gameId, state: 'in' } });
  if (there > 0)
    throw new FaultError({
      code: 'conflict',
      what: 'another build is in the game folder',
      hint: 'Take it out again first.',
    });
  return startRun('put-in', {
    title: `Putting build #${build.number} into ${game.name}`,
    gameId,
    input: { build: buildId },
  });
}

export async function putInRun({ gameId, input, progress, log }: RunContext<'put-in'>): Promise<RunResult<'put-in'>> {
  const game = await requireGame(gameId);
  const build = (await BuildModel.findByPk(input.build))!;
  const folder = await underRoots(game.folder);
  await checkFolder(gameId, folder, build);
  const steps = build.files.length * 3;
  let files: InstallFile[] = [];
  for (const file of build.files) {
    const target = join(folder, file.name);
    const facts = await stat(target).catch(() => undefined);
    // The original is in keeping, whole, before anything in the folder changes.
    const original = facts === undefined ? null : await keepOriginal(target);
    files.push({
      ...file,
      token: newToken(),
      original,
      originalSize: facts?.size ?? 0,
      originalModified: facts?.mtimeMs ?? 0,
      ...(facts === undefined
        ? { newFolders: await missingFolders(folder, file.name) }
        : { originalMode: facts.mode & 0o7777 }),
    });
    progress(files.length, steps, 'files');
    reached(`kept ${file.name}`);
  }
  const install = await InstallModel.create({ gameId, buildId: build.id, state: 'putting-in', files });
  reached('journal');
  try {
    for (const [i, file] of files.entries()) {
      await stage(file.sha256, join(folder, file.name), { token: file.token, mode: file.originalMode });
      progress(files.length + i + 1, steps, 'files');
      reached(`staged ${file.name}`);
    }
    const placed: InstallFile[] = [];
    for (const file of files) {
      placed.push({ ...file, placedModified: await takePlace(join(folder, file.name), file.token) });
      reached(`placed ${file.name}`);
    }
    for (const [i, file] of files.entries()) {
      if ((await sha256OfFile(join(folder, file.name))) !== file.sha256)
        throw new FaultError({
          code: 'not-reproduced',
          file: file.name,
          what: 'the file in the game folder is not what was built',
        });
      progress(files.length * 2 + i + 1, steps, 'files');
    }
    reached('verified');
    files = placed;
    await install.update({ state: 'in', files });
    reached('in');
  } catch (error) {
    log(`${sayFault(faultOf(error))} Everything is put back as it was.`);
    await restore(install, folder);
    throw error;
  }
  progress(steps, steps, 'files');
  log(
    `Build #${build.number} is in the game folder. Originals kept: ${files.filter((file) => file.original !== null).length}.`,
  );
  return { install: install.id };
}

/** Folders on the way to a file that are not there yet, the outermost first. */
async function missingFolders(folder: string, name: string): Promise<string[]> {
  const missing: string[] = [];
  for (let at = posix.dirname(name); at !== '.'; at = posix.dirname(at))
    if ((await stat(join(folder, at)).catch(() => undefined)) === undefined) missing.unshift(at);
  return missing;
}

/** What could go wrong is asked before anything is touched. */
async function checkFolder(gameId: number, folder: string, build: BuildModel): Promise<void> {
  await access(folder, constants.W_OK).catch((error: unknown) => {
    throw new FaultError(faultOf(error, folder), { cause: error });
  });
  const scanned = await scannedFiles(gameId);
  for (const file of build.files) {
    const where = { file: file.name };
    if (!(await hasBlob(file.sha256)))
      throw new FaultError({
        code: 'not-found',
        ...where,
        what: 'the built file has gone from storage',
        hint: 'Build again.',
      });
    const row = scanned.get(file.name);
    const target = join(folder, file.name);
    const facts = await stat(target).catch(() => undefined);
    if (row === undefined && facts !== undefined)
      throw new FaultError({
        code: 'conflict',
        ...where,
        what: 'a file of that name is in the game folder',
        hint: 'Scan the folder again to see what it is.',
      });
    if (row !== undefined && (facts === undefined || facts.size !== row.size || facts.mtimeMs !== row.modified)) {
      throw new FaultError({
        code: 'conflict',
        ...where,
        what: 'the file has changed since the last scan',
        hint: 'Scan the folder again and build anew.',
      });
    }
    if (facts !== undefined) await checkFree(target, file.name);
  }
  await checkSpace(folder, build);
}

/** A file that runs, or that may not be written, says so when it is opened for writing. */
async function checkFree(target: string, name: string): Promise<void> {
  const handle = await open(target, 'r+').catch((error: unknown) => {
    throw new FaultError(faultOf(error, name), { cause: error });
  });
  await handle.close();
  await access(dirname(target), constants.W_OK).catch((error: unknown) => {
    throw new FaultError(faultOf(error, dirname(name)), { cause: error });
  });
}

/** The new files lie next to the old ones until they take their place. */
function checkSpace(folder: string, { files }: BuildModel): Promise<void> {
  const needed = files.reduce((sum, { size }) => sum + size, 0);
  return requireSpace(folder, needed, {
    what: 'there is not enough room in the game folder',
    hint: 'Free some space, or make a small archive that loads last.',
  });
}

/** Size and time of every file of the game's archives, their volumes too, as the last scan saw them. */
async function scannedFiles(gameId: number): Promise<ReadonlyMap<string, { size: number; modified: number }>> {
  const files = new Map<string, { size: number; modified: number }>();
  for (const { path, size, modified, volumes } of await ArchiveModel.findAll({
    // What is to be new in the folder is scanned from keeping, and is not there yet.
    where: { gameId, isNew: false },
  })) {
    const folder = path.slice(0, path.lastIndexOf('/') + 1);
    for (const volume of volumes.slice(1)) files.set(`${folder}${volume.name}`, volume);
    files.set(path, { size, modified });
  }
  return files;
}
