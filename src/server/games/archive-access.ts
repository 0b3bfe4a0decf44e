/** Opened archives, kept for a while: reading one entry must not read the whole index again. */
import { join, relative } from 'node:path';
import { fileScratch, openFile, type FileSource } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { openArchive, type Archive, type OpenOptions, type Recipe } from '../../core/recipe';
import { companionsOf } from '../../core/recipe/node';
import { ArchiveModel, GameModel, InstallModel, onePerProcess } from '../database';
import { knownRecipes } from '../recipes';
import { blobPath, underRoots } from '../storage';
import { keysFor } from './key-service';

/** @throws FaultError `not-found` when the game has no such archive */
export async function requireArchive(gameId: number, id: number): Promise<ArchiveModel> {
  const row = await ArchiveModel.findOne({ where: { gameId, id } });
  if (row !== null) return row;
  throw new FaultError({ code: 'not-found', what: 'there is no such archive', hint: 'Scan the folder again.' });
}

/** Bytes of all files of an archive. */
export function bytesOf({ size, volumes }: ArchiveModel): number {
  return volumes.length === 0 ? size : volumes.reduce((sum, volume) => sum + volume.size, 0);
}

interface OpenedFiles {
  readonly archive: Archive;
  close(): Promise<void>;
}

interface Kept {
  readonly facts: string;
  readonly opened: Promise<OpenedFiles>;
  users: number;
  stale: boolean;
}

const MAX_KEPT = 6;

/**
 * Opens an archive of a game, or takes the one that is open, and hands it to `work`.
 *
 * @throws FaultError `not-found` when the file has gone, and what {@link openArchive} throws
 */
export async function withArchive<T>(archiveId: number, work: (archive: Archive) => Promise<T>): Promise<T> {
  const row = await ArchiveModel.findByPk(archiveId);
  if (row === null)
    throw new FaultError({ code: 'not-found', what: 'there is no such archive', hint: 'Scan the folder again.' });
  const cache = onePerProcess('archives', () => new Map<number, Kept>());
  const path = await archiveFile(row);
  // A volume that changed makes the archive another, as its main file does.
  const volumes = row.volumes.map(({ size, modified }) => `${size}@${modified}`).join();
  const facts = `${path}:${row.size}:${row.modified}:${row.state}:${row.recipe}:${volumes}`;
  let kept = cache.get(archiveId);
  if (kept?.facts !== facts) {
    retire(kept);
    kept = { facts, opened: open(row, path), users: 0, stale: false };
    cache.set(archiveId, kept);
    for (const [id, old] of cache) {
      if (cache.size <= MAX_KEPT) break;
      if (id !== archiveId) {
        cache.delete(id);
        retire(old);
      }
    }
  }
  kept.users++;
  try {
    const { archive } = await kept.opened;
    return await work(archive);
  } catch (error) {
    // A damaged entry is no reason to close the archive; a file that changed or cannot be opened is.
    const code = error instanceof FaultError ? error.fault.code : undefined;
    const opened = await kept.opened.then(
      () => true,
      () => false,
    );
    if (!opened || code === 'file-changed') {
      if (cache.get(archiveId) === kept) cache.delete(archiveId);
      kept.stale = true;
    }
    throw error;
  } finally {
    kept.users--;
    if (kept.stale) retire(kept);
  }
}

function retire(kept: Kept | undefined): void {
  if (kept === undefined) return;
  kept.stale = true;
  if (kept.users === 0) void kept.opened.then((opened) => opened.close()).catch(() => {});
}

async function open(row: ArchiveModel, path: string): Promise<OpenedFiles> {
  const recipe = (await knownRecipes()).find((one) => one.id === row.recipe);
  if (recipe === undefined) throw new FaultError({ code: 'no-recipe', file: row.path });
  const files = await openVolumesOf(row, recipe, path);
  const scratch = fileScratch();
  const close = async () => {
    await scratch.release();
    for (const source of files) await source.close();
  };
  try {
    const keys = await keysFor(row.gameId, recipe);
    const [archive] = await openWithAny(recipe, files, keys, { scratch });
    return { archive, close };
  } catch (error) {
    await close();
    throw error;
  }
}

/** The main file of an archive and those that belong to it, opened; the caller closes them. */
export async function openVolumesOf(row: ArchiveModel, recipe: Recipe, path: string): Promise<FileSource[]> {
  const opened = [await openFile(path, row.path)];
  if (recipe.volumes.length === 1) return opened;
  try {
    const game = await GameModel.findByPk(row.gameId);
    const main = await underRoots(join(game!.folder, row.path));
    const kept = await keptOriginals(row.gameId);
    for (const companion of await companionsOf(recipe, main)) {
      const name = relative(game!.folder, companion).replaceAll('\\', '/');
      opened.push(await openFile(kept.get(name) ?? (await underRoots(companion)), name));
    }
    return opened;
  } catch (error) {
    for (const source of opened) await source.close();
    throw error;
  }
}

/** Opens with the first keyring that fits. @returns the archive and which keyring it was */
export async function openWithAny(
  recipe: Recipe,
  files: readonly FileSource[],
  keyrings: readonly ReadonlyMap<string, Uint8Array>[],
  options: Pick<OpenOptions, 'signal' | 'scratch'> = {},
): Promise<[Archive, number]> {
  let refusal: unknown;
  for (const [i, keys] of keyrings.entries()) {
    try {
      return [await openArchive(recipe, files, { ...options, keys }), i];
    } catch (error) {
      if (!(error instanceof FaultError) || !['key-wrong', 'key-missing'].includes(error.fault.code)) throw error;
      refusal ??= error;
    }
  }
  if (refusal !== undefined) throw refusal;
  return [await openArchive(recipe, files, options), -1];
}

/** Files of the game that are in keeping while a build is in their place, by their names. */
async function keptOriginals(gameId: number): Promise<ReadonlyMap<string, string>> {
  const installs = await InstallModel.findAll({ where: { gameId, state: 'in' } });
  const files = installs.flatMap((install) => install.files).filter((file) => file.original !== null);
  return new Map(files.map((file) => [file.name, blobPath(file.original!)]));
}

/** Where the game's own file is: in its folder, or in keeping while a build is in its place. */
export async function archiveFile(row: ArchiveModel): Promise<string> {
  const kept = (await keptOriginals(row.gameId)).get(row.path);
  if (kept !== undefined) return kept;
  const game = await GameModel.findByPk(row.gameId);
  return underRoots(join(game!.folder, row.path));
}
