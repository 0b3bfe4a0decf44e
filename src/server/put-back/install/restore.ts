/** The way back: each file as it was, from any step that was reached. */
import { rm, rmdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { FaultError, faultOf, sayFault } from '../../../core/faults';
import { ArchiveModel, database, GameModel, InstallModel, RunModel } from '../../database';
import { blobPath, underRoots } from '../../storage';
import { sha256OfFile } from '../../storage';
import { stage, stagedPath, takePlace } from './place-file';
import { reached } from './steps';

/** Puts every file back as it was. Can be done again after a crash in its middle. */
export async function restore(install: InstallModel, folder: string): Promise<void> {
  const left = new Set(install.leftAlone);
  const files = install.files.filter(({ name }) => !left.has(name));
  for (const { name, sha256, original, originalModified, originalMode: mode, token } of files) {
    const target = join(folder, name);
    await rm(stagedPath(target, token), { force: true });
    const found = await sha256OfFile(target);
    if (original === null) {
      // Only what we put there is removed.
      if (found === sha256) await rm(target);
    } else if (found !== original || !(await isApart(target, original, originalModified))) {
      await stage(original, target, { token, mode });
      reached(`staged ${name}`);
      await takePlace(target, token, originalModified);
      if ((await sha256OfFile(target)) !== original)
        throw new FaultError({
          code: 'not-reproduced',
          file: name,
          what: 'the original could not be put back',
          hint: `It is kept as ${blobPath(original)}.`,
        });
    }
    reached(`restored ${name}`);
  }
  // One that something else put a file into stays.
  for (const { newFolders = [] } of files)
    for (const made of newFolders.toReversed()) await rmdir(join(folder, made)).catch(() => {});
  await database().transaction(async (transaction) => {
    await install.update({ state: 'out', takenOutAt: new Date() }, { transaction });
    // The time of a restored file may differ in its last digits: what was scanned is still what is there.
    for (const file of files.filter((one) => one.original !== null)) {
      const facts = await stat(join(folder, file.name));
      await ArchiveModel.update(
        { modified: facts.mtimeMs },
        { where: { gameId: install.gameId, path: file.name }, transaction },
      );
    }
  });
  reached('out');
}

/** Whether the file has its own time, and bytes of its own: nothing that is written into it reaches what is kept. */
async function isApart(target: string, original: string, modified: number): Promise<boolean> {
  const [here, kept] = [await stat(target), await stat(blobPath(original))];
  return here.mtimeMs === modified && !(here.ino === kept.ino && here.dev === kept.dev);
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
      where: { gameId: install.gameId, kind: ['put-in', 'take-back', 'routine'], state: ['working', 'stopping'] },
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
