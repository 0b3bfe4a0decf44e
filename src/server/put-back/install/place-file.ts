/** Moving whole files between a game's folder and storage. */
import { constants, createReadStream } from 'node:fs';
import { copyFile, link, mkdir, open, rename, rm, stat, utimes } from 'node:fs/promises';
import { randomBytes } from 'node:crypto';
import { basename, dirname, join } from 'node:path';
import { FaultError, faultOf } from '../../../core/faults';
import { env } from '../../env';
import { blobFile, blobPath, hasBlob, keepBlob, underRoots } from '../../storage';
import { sha256OfFile } from '../../storage';

/** Beside its target until it takes its place: nothing that a game loads ends so. */
const STAGED = 'zero-latch-new';

/** The unpredictable part of a temporary name; the journal keeps it, so that what is left can be removed. */
export const newToken = (): string => randomBytes(6).toString('hex');

/** @param token none in journals of older versions */
export const stagedPath = (target: string, token: string | undefined): string =>
  join(dirname(target), `.${basename(target)}.${token === undefined ? '' : `${token}.`}${STAGED}`);

/**
 * Keeps a file of the game: as another name of the same bytes where the disks allow it, as a copy otherwise.
 *
 * @returns its SHA-256
 */
export async function keepOriginal(path: string): Promise<string> {
  const before = await stat(path);
  const sha256 = (await sha256OfFile(path))!;
  // A kept file may share its bytes with one that something else wrote into since.
  if ((await sha256OfFile(blobPath(sha256))) !== sha256) {
    await rm(blobPath(sha256), { force: true });
    const incoming = join(env().home, 'blobs', 'incoming', randomBytes(12).toString('hex'));
    try {
      await mkdir(dirname(incoming), { recursive: true });
      await link(path, incoming);
      await mkdir(dirname(blobPath(sha256)), { recursive: true });
      await rename(incoming, blobPath(sha256));
    } catch {
      await rm(incoming, { force: true });
      await keepBlob(createReadStream(path, { highWaterMark: 1 << 20 }));
    }
  }
  const after = await stat(path);
  if (after.size === before.size && after.mtimeMs === before.mtimeMs && (await hasBlob(sha256))) return sha256;
  throw new FaultError({
    code: 'file-changed',
    file: basename(path),
    what: 'the file changes while it is kept',
    hint: 'Is the game running or updating? Close it and try again.',
  });
}

export interface Staged {
  readonly token: string | undefined;
  readonly mode: number | undefined;
}

/**
 * Copies a blob next to its target, synced; copy-on-write where the file system can. No link is followed to where it
 * comes to lie: not at its name, and none on the way that leads out of the roots.
 *
 * @throws FaultError `not-allowed` where a folder on the way is a link out of the roots
 */
export async function stage(sha256: string, target: string, { token, mode }: Staged): Promise<void> {
  const staged = stagedPath(target, token);
  await underRoots(dirname(target));
  try {
    await mkdir(dirname(target), { recursive: true });
    await copyFile(await blobFile(sha256), staged, constants.COPYFILE_FICLONE | constants.COPYFILE_EXCL);
  } catch (error) {
    throw new FaultError(faultOf(error, basename(target)), { cause: error });
  }
  try {
    const handle = await open(staged, constants.O_RDWR | constants.O_NOFOLLOW);
    try {
      await handle.chmod(mode ?? 0o644);
      await handle.sync();
    } finally {
      await handle.close();
    }
  } catch (error) {
    await rm(staged, { force: true });
    throw new FaultError(faultOf(error, basename(target)), { cause: error });
  }
}

/** What was staged takes its place, at once. @returns when it was written, in milliseconds since 1970 */
export async function takePlace(target: string, token: string | undefined, modified?: number): Promise<number> {
  const staged = stagedPath(target, token);
  try {
    if (modified !== undefined) await utimes(staged, new Date(), new Date(modified));
    await underRoots(dirname(target));
    await rename(staged, target);
    await syncFolder(dirname(target));
    return (await stat(target)).mtimeMs;
  } catch (error) {
    throw new FaultError(faultOf(error, basename(target)), { cause: error });
  }
}

/** A name in a folder is only lasting when the folder is synced. */
async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r');
  // Some file systems do not sync folders.
  await handle.sync().catch(() => {});
  await handle.close();
}
