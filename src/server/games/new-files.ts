/**
 * Files that are to be new in a game's folder, such as the words of a language it does not have. Until a build lays them there they
 * are read from keeping, and scanned as if they were there.
 */
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { ArchiveModel } from '../database';
import { startRun } from '../runs';
import { activeChanges } from './active-changes';
import { filesOfOurs } from './installed';
import { requireGame } from './require-game';
import type { InstallFile, RunAnswer } from '../shapes';
import { blobFile } from '../storage';

export interface NewFile {
  /** In the game's folder. */
  readonly path: string;
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number;
  /** Where its bytes are. */
  readonly at: string;
}

/** @param ours files that a build of ours laid into the folder: one of that name is no file of the game */
export async function newFiles(
  gameId: number,
  folder: string,
  ours: ReadonlyMap<string, InstallFile>,
): Promise<ReadonlyMap<string, NewFile>> {
  const found = new Map<string, NewFile>();
  for (const { path, size, blob, createdAt } of await activeChanges(gameId, { newFiles: true })) {
    // The game has brought one of that name itself by now, which is then the one that counts.
    if (await isThere(folder, path, ours)) continue;
    found.set(path, { path, size, modified: createdAt.getTime(), at: await blobFile(blob) });
  }
  return found;
}

/** Whether the game itself has a file of that name, and not a build of ours alone. */
export async function isOfTheGame(gameId: number, path: string): Promise<boolean> {
  const { folder } = await requireGame(gameId);
  return isThere(folder, path, await filesOfOurs(gameId, folder));
}

async function isThere(folder: string, path: string, ours: ReadonlyMap<string, InstallFile>): Promise<boolean> {
  const laid = ours.get(path);
  if (laid !== undefined) return laid.original !== null;
  return (await stat(join(folder, path)).catch(() => undefined)) !== undefined;
}

/** Scans the folder again when the archives no longer are those of the new files there are now. */
export async function settleNewFiles(gameId: number): Promise<RunAnswer | undefined> {
  const game = await requireGame(gameId);
  const fresh = await newFiles(gameId, game.folder, await filesOfOurs(gameId, game.folder));
  const rows = await ArchiveModel.findAll({ where: { gameId, isNew: true }, attributes: ['path', 'modified'] });
  const read = new Map(rows.map((row) => [row.path, row.modified]));
  const asRead = [...fresh.values()].every(({ path, modified }) => read.get(path) === modified);
  if (asRead && rows.length === fresh.size) return undefined;
  return startRun('scan', { title: `Scanning ${game.name} with what is new in it`, gameId, input: {} });
}
