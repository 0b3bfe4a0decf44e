/** Opened archives, kept for a while: reading one entry must not read the whole index again. */
import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, join, relative } from 'node:path';
import { sliceSource, type ByteSource, type Scratch } from '../../core/bytes';
import { createFile, fileScratch, looseFile, openFile, type FileSource } from '../../core/bytes/node';
import { FOUND_RECIPE, foundRecipe, LOOSE_RECIPE, looseRecipe } from '../../core/carve';
import { FaultError, faultOf } from '../../core/faults';
import { readEntry, storedSource, volumeNumber, type Archive, type Recipe } from '../../core/recipe';
import { companionsOf } from '../../core/recipe/node';
import { ArchiveModel, GameModel } from '../database';
import { onePerProcess } from '../one-per-process';
import { oncePerRequest } from '../request-cache';
import { filesOfOurs } from './installed';
import { newFiles } from './new-files';
import { knownRecipes } from '../recipes';
import { blobPath, underRoots } from '../storage';
import { keysFor } from './keys/keyring';
import { knownNames } from './names/known-names';
import { openWithAny } from './open-archive';

/** @throws FaultError `not-found` when the game has no such archive */
export async function requireArchive(gameId: number, id: number): Promise<ArchiveModel> {
  const row = await ArchiveModel.findOne({ where: { gameId, id } });
  if (row !== null) return row;
  throw new FaultError({ code: 'not-found', what: 'there is no such archive', hint: 'Scan the folder again.' });
}

/** The row of an archive that is known to exist; null when it has gone meanwhile. */
export const archiveRow = (id: number): Promise<ArchiveModel | null> =>
  oncePerRequest(`archive ${id}`, () => ArchiveModel.findByPk(id));

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
  const { archive, release } = await holdArchive(archiveId);
  try {
    return await work(archive);
  } catch (error) {
    // A damaged entry is no reason to close the archive; a file that changed is.
    release({ stale: error instanceof FaultError && error.fault.code === 'file-changed' });
    throw error;
  } finally {
    release();
  }
}

interface Held {
  readonly archive: Archive;
  /** Only the first call counts. */
  release(how?: { stale?: boolean }): void;
}

/** An archive that stays open until it is released, for what outlives the call that began it. */
export async function holdArchive(archiveId: number): Promise<Held> {
  const row = await archiveRow(archiveId);
  if (row === null)
    throw new FaultError({ code: 'not-found', what: 'there is no such archive', hint: 'Scan the folder again.' });
  const cache = onePerProcess('archives', () => new Map<number, Kept>());
  const facts = await oncePerRequest(`files of archive ${archiveId}`, () => factsOf(row));
  let kept = cache.get(archiveId);
  if (kept?.facts !== facts) {
    retire(kept);
    kept = { facts, opened: open(row), users: 0, stale: false };
    cache.set(archiveId, kept);
    for (const [id, old] of cache) {
      if (cache.size <= MAX_KEPT) break;
      if (id !== archiveId) {
        cache.delete(id);
        retire(old);
      }
    }
  }
  const mine = kept;
  mine.users++;
  let held = true;
  const release = ({ stale = false } = {}) => {
    if (!held) return;
    held = false;
    mine.users--;
    if (stale) {
      if (cache.get(archiveId) === mine) cache.delete(archiveId);
      mine.stale = true;
    }
    if (mine.stale) retire(mine);
  };
  try {
    return { archive: (await mine.opened).archive, release };
  } catch (error) {
    release({ stale: true });
    throw error;
  }
}

/** What an open archive depends on: a volume that changed makes it another, as its main file does, or the one around it. */
async function factsOf(row: ArchiveModel): Promise<string> {
  const volumes = row.volumes.map(({ size, modified }) => `${size}@${modified}`).join();
  const own = `${row.size}:${row.modified}:${row.state}:${row.recipe}:${row.namedCount}:${JSON.stringify(row.keys)}:${volumes}`;
  if (row.parentId === null || row.parentId === undefined) {
    const path = await archiveFile(row);
    // A file that has gone or is another by now must not be read on through an old handle.
    const now = await stat(path).catch((error: unknown) => {
      throw new FaultError(faultOf(error, row.path), { cause: error });
    });
    return `${path}:${now.ino}:${now.size}:${now.mtimeMs}:${own}`;
  }
  const parent = await archiveRow(row.parentId);
  return `${parent === null ? 'gone' : await factsOf(parent)}>${row.parentN}:${own}`;
}

function retire(kept: Kept | undefined): void {
  if (kept === undefined) return;
  kept.stale = true;
  if (kept.users === 0) void kept.opened.then((opened) => opened.close()).catch(() => {});
}

async function recipeOf({ recipe, gameId }: ArchiveModel): Promise<Recipe | undefined> {
  if (recipe === FOUND_RECIPE) return foundRecipe();
  if (recipe === LOOSE_RECIPE) return looseRecipe();
  return (await knownRecipes(gameId)).find((one) => one.id === recipe);
}

async function open(row: ArchiveModel): Promise<OpenedFiles> {
  const recipe = await recipeOf(row);
  if (recipe === undefined) throw new FaultError({ code: 'no-recipe', file: row.path });
  const sources = await openVolumesOf(row, recipe);
  const scratch = fileScratch();
  const close = async () => {
    await scratch.release();
    await sources.close();
  };
  try {
    const rings = await keysFor(row.gameId, recipe, row.keys);
    const names = recipe.entries.hashing === undefined ? [] : await knownNames(row.gameId);
    const { archive } = await openWithAny(recipe, sources.files, rings, { scratch, names });
    return { archive, close };
  } catch (error) {
    await close();
    throw error;
  }
}

export interface VolumeSources {
  /** The main file first. */
  readonly files: readonly ByteSource[];
  close(): Promise<void>;
}

/** The files of an archive, opened: of the game's folder, of keeping, or entries of the archive around it. */
export async function openVolumesOf(row: ArchiveModel, recipe: Recipe): Promise<VolumeSources> {
  if (row.parentId !== null && row.parentId !== undefined) return openNested(row.parentId, row, recipe);
  const files: FileSource[] = [];
  const close = async () => {
    for (const source of files) await source.close();
  };
  try {
    const open = recipe.presents === 'folder' ? looseFile : openFile;
    for (const { path, name } of await volumeFiles(row, recipe)) files.push(await open(path, name));
    return { files, close };
  } catch (error) {
    await close();
    throw error;
  }
}

export interface VolumeFile {
  readonly path: string;
  /** Its path in the game's folder. */
  readonly name: string;
}

/** Where the files of an archive of the game's folder are, the main one first. */
export async function volumeFiles(row: ArchiveModel, recipe: Recipe): Promise<VolumeFile[]> {
  const files = [{ path: await archiveFile(row), name: row.path }];
  if (recipe.volumes.length === 1) return files;
  // The table of what was found is ours, and is in front of the file.
  if (recipe.id === FOUND_RECIPE) return [{ path: blobPath(row.found?.table ?? ''), name: row.path }, ...files];
  const game = await GameModel.findByPk(row.gameId);
  const main = await underRoots(join(game!.folder, row.path));
  const kept = await keptOriginals(row.gameId);
  for (const companion of await companionsOf(recipe, main)) {
    const name = relative(game!.folder, companion).replaceAll('\\', '/');
    files.push({ path: kept.get(name) ?? (await underRoots(companion)), name });
  }
  return files;
}

/** The main file of an archive as a file: where it lies in another archive, a copy that is removed again. */
export async function withMainFile<T>(row: ArchiveModel, work: (path: string) => Promise<T>): Promise<T> {
  if (row.parentId === null || row.parentId === undefined) return work(await archiveFile(row));
  const folder = await mkdtemp(join(tmpdir(), 'zero-latch-'));
  try {
    const path = join(folder, basename(row.path));
    await withArchive(row.parentId, async (around) => {
      const sink = await createFile(path);
      for await (const chunk of readEntry(around, row.parentN!)) await sink.write(chunk);
      await sink.close();
    });
    return await work(path);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** An entry as a file of its own, with the entries next to it that belong to it. */
async function openNested(parentId: number, row: ArchiveModel, recipe: Recipe): Promise<VolumeSources> {
  const parent = await holdArchive(parentId);
  const scratch = fileScratch();
  const close = async () => {
    await scratch.release();
    parent.release();
  };
  try {
    const { archive } = parent;
    const files = [await entrySource(archive, row.parentN!, scratch)];
    const [, ...sets] = recipe.volumes;
    const main = archive.entries.path(row.parentN!);
    const folder = dirname(main);
    for (let n = 0; sets.length > 0 && n < archive.entries.count; n++) {
      const path = archive.entries.path(n);
      if (n === row.parentN || dirname(path) !== folder) continue;
      if (sets.some((set) => volumeNumber(set, main, path) !== undefined))
        files.push(await entrySource(archive, n, scratch));
    }
    return { files, close };
  } catch (error) {
    await close();
    throw error;
  }
}

/** The plain bytes of an entry, readable anywhere: a stretch of its archive where it is stored as it is, else a copy. */
export async function entrySource(archive: Archive, n: number, scratch: Scratch): Promise<ByteSource> {
  const path = archive.entries.path(n);
  const { entries: rule } = archive.recipe;
  const plain =
    rule.wrap === undefined && rule.blocks === undefined && rule.stepsOf(archive.entries.method(n))?.length === 0;
  if (plain) {
    const stored = storedSource(archive, n);
    return sliceSource(stored, 0, stored.size, path);
  }
  return scratch.keep(readEntry(archive, n), path);
}

/** Files of the game that are in keeping while a build is in their place, by their names. */
async function keptOriginals(gameId: number): Promise<ReadonlyMap<string, string>> {
  const game = await GameModel.findByPk(gameId);
  const kept = new Map<string, string>();
  for (const { name, original } of (await filesOfOurs(gameId, game!.folder)).values())
    if (original !== null) kept.set(name, blobPath(original));
  return kept;
}

/** Where an archive's own file is: in the game's folder, or in keeping while a build is in its place or it is to be new. */
export async function archiveFile(row: ArchiveModel): Promise<string> {
  const game = await GameModel.findByPk(row.gameId);
  const ours = await filesOfOurs(row.gameId, game!.folder);
  const original = ours.get(row.path)?.original;
  if (original != null) return blobPath(original);
  const fresh = (await newFiles(row.gameId, game!.folder, ours)).get(row.path);
  return fresh?.at ?? underRoots(join(game!.folder, row.path));
}
