/** What is in a game's folder of builds that were put in, as the folder itself shows it. */
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { InstallModel } from '../database';
import type { InstallFile, InstalledFileStatus } from '../shapes';

/** Times of files are kept to the microsecond by some file systems, and to less by others. */
const SAME_MS = 2;

/**
 * Told by size and time, for the files may be large: `ours` as it was put in, `original` as it was before, `other` when
 * something else wrote it since, `gone` when it is not there.
 */
export async function installedFileStatus(folder: string, file: InstallFile): Promise<InstalledFileStatus['is']> {
  const facts = await stat(join(folder, file.name)).catch(() => undefined);
  if (facts === undefined) return 'gone';
  const at = (modified: number | undefined) =>
    modified === undefined || modified === 0 || Math.abs(facts.mtimeMs - modified) < SAME_MS;
  if (facts.size === file.size && at(file.placedModified)) return 'ours';
  if (file.original !== null && facts.size === file.originalSize && at(file.originalModified)) return 'original';
  return 'other';
}

/** Files of builds that are in the folder now, as they were put in, by name. */
export async function filesOfOurs(gameId: number, folder: string): Promise<ReadonlyMap<string, InstallFile>> {
  const ours = new Map<string, InstallFile>();
  for (const { files } of await InstallModel.findAll({ where: { gameId, state: 'in' } }))
    for (const file of files) if ((await installedFileStatus(folder, file)) === 'ours') ours.set(file.name, file);
  return ours;
}
