/**
 * Putting a build into the game folder and taking it out again, all or nothing. The install's row is the journal: it is
 * written before anything is touched, and a crash at any step is rolled back from it at the next start.
 */
import { createReadStream } from 'node:fs';
import { access, constants, mkdir, rm, stat, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { createFile } from '../../core/bytes/node';
import { FaultError, faultOf, sayFault } from '../../core/faults';
import { ArchiveModel, BuildModel, database, GameModel, InstallModel, RunModel } from '../database';
import { requireGame } from '../games';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { InstallFile, RunAnswer } from '../shapes';
import { blobPath, hasBlob, keepBlob, underRoots } from '../storage';
import { sha256OfFile } from './sha256';

export async function startPutIn(gameId: number, buildId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const build = await BuildModel.findOne({ where: { gameId, id: buildId } });
  if (build === null) throw new FaultError({ code: 'not-found', what: 'there is no such build' });
  if (build.report !== null && !build.report.started) {
    throw new FaultError({
      code: 'conflict',
      what: 'the stand-in game does not start with this build',
      hint: 'Look at what it says, mend the change and build again.',
    });
  }
  const there = await InstallModel.count({ where: { gameId, state: 'in' } });
  if (there > 0)
    throw new FaultError({
      code: 'conflict',
      what: 'another build is in the game folder',
      hint: 'Take it out again first.',
    });
  return startRun({
    kind: 'put-in',
    title: `Putting build #${build.number} into ${game.name}`,
    gameId,
    input: { build: buildId },
  });
}

export async function startTakeBack(gameId: number, installId: number): Promise<RunAnswer> {
  const game = await requireGame(gameId);
  const install = await InstallModel.findOne({ where: { gameId, id: installId, state: 'in' } });
  if (install === null) throw new FaultError({ code: 'not-found', what: 'that build is not in the game folder' });
  return startRun({
    kind: 'take-back',
    title: `Taking the build out of ${game.name}`,
    gameId,
    input: { install: installId },
  });
}

export async function putInRun({ gameId, input, progress, log }: RunContext): Promise<object> {
  const game = await requireGame(gameId);
  const build = (await BuildModel.findByPk(input['build'] as number))!;
  const folder = await underRoots(game.folder);
  await checkFolder(gameId, folder, build);
  const files: InstallFile[] = [];
  for (const file of build.files) {
    const target = join(folder, file.name);
    const facts = await stat(target).catch(() => undefined);
    // The original is in keeping, whole and synced, before anything in the folder changes.
    const original = facts === undefined ? null : (await keepBlob(createReadStream(target))).sha256;
    files.push({ ...file, original, originalSize: facts?.size ?? 0, originalModified: facts?.mtimeMs ?? 0 });
  }
  const install = await InstallModel.create({ gameId, buildId: build.id, state: 'putting-in', files });
  try {
    for (const [i, file] of files.entries()) {
      progress(i, files.length, 'files');
      await copyBlob(file.sha256, join(folder, file.name));
    }
    for (const file of files) {
      if ((await sha256OfFile(join(folder, file.name))) !== file.sha256)
        throw new FaultError({
          code: 'not-reproduced',
          file: file.name,
          what: 'the file in the game folder is not what was built',
        });
    }
    await install.update({ state: 'in' });
  } catch (error) {
    log(`${sayFault(faultOf(error))} Everything is put back as it was.`);
    await restore(install, folder);
    throw error;
  }
  progress(files.length, files.length, 'files');
  log(
    `Build #${build.number} is in the game folder. Originals kept: ${files.filter((file) => file.original !== null).length}.`,
  );
  return { install: install.id };
}

/** What could go wrong is asked before anything is touched. */
async function checkFolder(gameId: number, folder: string, build: BuildModel): Promise<void> {
  await access(folder, constants.W_OK).catch((error: unknown) => {
    throw new FaultError(faultOf(error, folder), { cause: error });
  });
  const scanned = await scannedFiles(gameId);
  for (const file of build.files) {
    if (!(await hasBlob(file.sha256)))
      throw new FaultError({
        code: 'not-found',
        file: file.name,
        what: 'the built file has gone from storage',
        hint: 'Build again.',
      });
    const row = scanned.get(file.name);
    const facts = await stat(join(folder, file.name)).catch(() => undefined);
    if (row === undefined && facts !== undefined)
      throw new FaultError({
        code: 'conflict',
        file: file.name,
        what: 'a file of that name is in the game folder',
        hint: 'Scan the folder again to see what it is.',
      });
    if (row !== undefined && (facts === undefined || facts.size !== row.size || facts.mtimeMs !== row.modified)) {
      throw new FaultError({
        code: 'conflict',
        file: file.name,
        what: 'the file has changed since the last scan',
        hint: 'Scan the folder again and build anew.',
      });
    }
  }
}

/** Size and time of every file of the game's archives, their volumes too, as the last scan saw them. */
async function scannedFiles(gameId: number): Promise<ReadonlyMap<string, { size: number; modified: number }>> {
  const files = new Map<string, { size: number; modified: number }>();
  for (const { path, size, modified, volumes } of await ArchiveModel.findAll({ where: { gameId } })) {
    const folder = path.slice(0, path.lastIndexOf('/') + 1);
    for (const volume of volumes.slice(1)) files.set(`${folder}${volume.name}`, volume);
    files.set(path, { size, modified });
  }
  return files;
}

async function copyBlob(sha256: string, target: string): Promise<void> {
  await mkdir(dirname(target), { recursive: true });
  const sink = await createFile(target);
  try {
    for await (const chunk of createReadStream(blobPath(sha256), { highWaterMark: 1 << 20 }))
      await sink.write(chunk as Uint8Array);
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}

export async function takeBackRun({ input, progress, log }: RunContext): Promise<object> {
  const install = (await InstallModel.findByPk(input['install'] as number))!;
  const game = await requireGame(install.gameId);
  const folder = await underRoots(game.folder);
  for (const file of install.files) {
    const found = await sha256OfFile(join(folder, file.name));
    if (found === file.sha256 || found === (file.original ?? undefined)) continue;
    throw new FaultError({
      code: 'conflict',
      file: file.name,
      what: found === undefined ? 'the file that was put in has gone' : 'the file is no longer the one that was put in',
      hint: 'The game’s updater may have replaced it. Put the file that was there out of the way, then try again.',
    });
  }
  await install.update({ state: 'taking-out' });
  await restore(install, folder);
  progress(install.files.length, install.files.length, 'files');
  log('The game folder is as it was before.');
  return { files: install.files.length };
}

/** Puts every file back as it was. Can be done again after a crash in its middle. */
async function restore(install: InstallModel, folder: string): Promise<void> {
  for (const file of install.files) {
    const target = join(folder, file.name);
    if (file.original === null) {
      // Only what we put there is removed.
      if ((await sha256OfFile(target)) === file.sha256) await rm(target);
      continue;
    }
    if ((await sha256OfFile(target)) !== file.original) await copyBlob(file.original, target);
    await utimes(target, new Date(), new Date(file.originalModified));
    if ((await sha256OfFile(target)) !== file.original)
      throw new FaultError({
        code: 'not-reproduced',
        file: file.name,
        what: 'the original could not be put back',
        hint: `It is kept as ${blobPath(file.original)}.`,
      });
  }
  await database().transaction(async (transaction) => {
    await install.update({ state: 'out', takenOutAt: new Date() }, { transaction });
    // The time of a restored file may differ in its last digits: what was scanned is still what is there.
    for (const file of install.files.filter((one) => one.original !== null)) {
      const facts = await stat(join(folder, file.name));
      await ArchiveModel.update(
        { modified: facts.mtimeMs },
        { where: { gameId: install.gameId, path: file.name }, transaction },
      );
    }
  });
}

/**
 * Rolls back what a crash left half-done. What a living worker is doing right now is left alone: a run counts as living
 * until it has been marked as interrupted.
 */
export async function recoverInstalls(say: (text: string) => void): Promise<void> {
  const halfDone = await InstallModel.findAll({ where: { state: ['putting-in', 'taking-out'] } });
  for (const install of halfDone) {
    const game = await GameModel.findByPk(install.gameId);
    const living = await RunModel.count({
      where: { gameId: install.gameId, kind: ['put-in', 'take-back'], state: ['working', 'stopping'] },
    });
    if (game === null || living > 0) continue;
    try {
      await restore(install, await underRoots(game.folder));
      say(`${game.name}: a build that was half put in or taken out was rolled back.`);
    } catch (error) {
      say(`${game.name}: ${sayFault(faultOf(error))}`);
    }
  }
}
