/** Collecting blobs that nothing refers to: set apart, looked at once more, and only then deleted. */
import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { throwIfStopped } from '../../core/faults';
import { database } from '../database';
import { env } from '../env';
import { blobPath } from '../storage';
import { filesBelow } from './folders';
import { references, type References } from './references';

/** What was kept more recently stays: the row that will refer to it may not be written yet. */
export const GRACE_MS = 60 * 60 * 1000;

const isBlob = (path: string) => /^[0-9a-f]{64}$/u.test(basename(path));
const blobs = () => join(env().home, 'blobs');

export interface Unused {
  readonly path: string;
  readonly bytes: number;
}

/** Files of blobs that nothing refers to, and what ended runs left half-written. */
export async function* unusedFiles(
  used: ReadonlyMap<string, References>,
  before = new Date(Date.now() - GRACE_MS),
): AsyncGenerator<Unused> {
  for await (const { path, bytes, written } of filesBelow(blobs()))
    if (written < before && !(isBlob(path) && used.has(basename(path)))) yield { path, bytes };
}

/** Bytes of small blobs that nothing refers to. */
export async function unusedSmall(
  used: ReadonlyMap<string, References>,
  before = new Date(Date.now() - GRACE_MS),
): Promise<number> {
  const [row] = await database().query<{ bytes: string | null }>(
    `select sum(length(bytes)) as bytes from small_blobs
     where kept_at < $1 and encode(sha256, 'hex') not in (select unnest($2::text[]))`,
    { bind: [before, [...used.keys()]], type: QueryTypes.SELECT },
  );
  return Number(row?.bytes ?? 0);
}

/**
 * Deletes what nothing refers to. A blob that is kept again meanwhile stays: keeping it touches its file, or makes it again
 * where it has been set apart.
 *
 * @returns bytes that are free now
 */
export async function collect(
  progress: (done: number) => void,
  signal: AbortSignal,
  before = new Date(Date.now() - GRACE_MS),
): Promise<number> {
  const apart = join(blobs(), 'leaving');
  let freed = 0;
  let done = 0;
  const set: Unused[] = [];
  // A run that was killed may have left something apart that is in use.
  const known = await references();
  for await (const { path } of filesBelow(apart)) if (isBlob(path) && known.has(basename(path))) await giveBack(path);
  // All are known before the first is moved, for they are moved to where the walk comes by.
  const unused: Unused[] = [];
  for await (const file of unusedFiles(known, before)) unused.push(file);
  for (const file of unused) {
    throwIfStopped(signal);
    const place = dirname(file.path) === apart ? file.path : join(apart, basename(file.path));
    await mkdir(apart, { recursive: true });
    await rename(file.path, place);
    // If it was stored again between the check and the move, its time has changed.
    if (isBlob(place) && (await stat(place)).mtime >= before) await giveBack(place);
    else set.push({ path: place, bytes: file.bytes });
    progress(++done);
  }
  const used = await references();
  for (const { path, bytes } of set) {
    if (isBlob(path) && used.has(basename(path))) {
      await giveBack(path);
      continue;
    }
    await rm(path);
    freed += bytes;
  }
  return freed + (await collectSmall(used, before));
}

async function giveBack(path: string): Promise<void> {
  const home = blobPath(basename(path));
  await mkdir(dirname(home), { recursive: true });
  await rename(path, home);
}

async function collectSmall(used: ReadonlyMap<string, References>, before: Date): Promise<number> {
  const gone = await database().query<{ bytes: number }>(
    `delete from small_blobs where kept_at < $1 and encode(sha256, 'hex') not in (select unnest($2::text[]))
     returning length(bytes) as bytes`,
    { bind: [before, [...used.keys()]], type: QueryTypes.SELECT },
  );
  return gone.reduce((sum, { bytes }) => sum + bytes, 0);
}
