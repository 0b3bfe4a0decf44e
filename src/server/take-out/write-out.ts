/** Files of entries under a folder, each written whole or not at all. */
import { lstat, mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { readChunks } from '../../core/bytes';
import { createFile, openFile } from '../../core/bytes/node';
import { faultOf, FaultError } from '../../core/faults';
import { readEntry, storedSource, type Archive } from '../../core/recipe';
import { ArchiveModel } from '../database';
import { standsAt, withArchive } from '../games';
import type { TakeOutOrder } from '../shapes';
import { underRoots } from '../storage';
import type { Going } from './start';

/** A file that is there from an earlier try of this run is done. */
export async function isThere(entry: Going, target: string): Promise<boolean> {
  const there = await lstat(target).catch(() => undefined);
  return there?.isFile() === true && there.size === entry.size && sameBytes(entry, target);
}

export async function writeWhole(bytes: Uint8Array, target: string): Promise<void> {
  const sink = await createFile(target, { durable: false });
  try {
    await sink.write(bytes);
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}

/** The path under `to`, made sure that no link in between leads out of it. */
export async function safeTarget(to: string, path: string): Promise<string> {
  const target = join(to, path);
  await mkdir(dirname(target), { recursive: true }).catch((error: unknown) => {
    throw new FaultError(faultOf(error, path), { cause: error });
  });
  const real = await underRoots(dirname(target));
  if (!`${real}/`.startsWith(`${await underRoots(to)}/`)) {
    throw new FaultError({
      code: 'not-allowed',
      what: 'a link in the folder leads out of it',
      file: path,
      found: real,
    });
  }
  return join(real, path.slice(path.lastIndexOf('/') + 1));
}

async function sameBytes(entry: { archive: number; n: number }, target: string): Promise<boolean> {
  const file = await openFile(target);
  try {
    return await withArchive(entry.archive, async (archive) => {
      let at = 0;
      for await (const chunk of readEntry(archive, entry.n)) {
        if (Buffer.compare(chunk, await file.read(at, chunk.length)) !== 0) return false;
        at += chunk.length;
      }
      return at === file.size;
    });
  } finally {
    await file.close();
  }
}

export async function takeOne(
  archive: Archive,
  entry: { archive: number; n: number; path: string },
  target: string,
  form: TakeOutOrder['form'],
  signal: AbortSignal,
): Promise<void> {
  await checkStillThere(archive, entry);
  const sink = await createFile(target, { durable: false });
  try {
    const chunks =
      form === 'stored'
        ? readChunks(storedSource(archive, entry.n), 0, archive.entries.stored(entry.n), { signal })
        : readEntry(archive, entry.n, { signal });
    for await (const chunk of chunks) await sink.write(chunk);
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}

export async function checkStillThere(
  archive: Archive,
  entry: { archive: number; n: number; path: string },
): Promise<void> {
  const row = await ArchiveModel.findByPk(entry.archive);
  if (row !== null && (await standsAt(row, archive, entry.n, entry.path))) return;
  throw new FaultError({
    code: 'no-such-entry',
    entry: entry.path,
    file: archive.source.name,
    what: 'the archive has changed since the last scan',
    hint: 'Scan the folder again.',
  });
}
