/** Files that appear under their name only when they are whole. */
import { randomUUID } from 'node:crypto';
import { closeSync, constants, linkSync, openSync, renameSync, rmSync, unlinkSync, writeSync } from 'node:fs';
import { copyFile, open, readdir, rm, type FileHandle } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { faultOf, FaultError } from '../faults';
import type { ByteSink } from './byte-sink';
import { checkRange, copyOf } from './byte-source';
import { readingAhead } from './read-ahead';

/** Writes below this size are gathered; larger ones go to the file as they are. */
const SMALL_BYTES = 64 << 10;
/** What is gathered reaches the file at this many bytes. */
const GATHER_BYTES = 1 << 20;

interface CreateOptions {
  /**
   * False leaves syncing to the system: what is taken out can be taken out again, and waiting for the disk after each of
   * thousands of files would be most of the time. Default true.
   */
  readonly durable?: boolean;
  /** A file it starts as a copy of, made by the system, copy-on-write where it can: what is skipped stays. */
  readonly from?: string;
  /** False leaves a file that has the name, and refuses to close. Default true. */
  readonly replace?: boolean;
  /** The part of the temporary name that no one can foresee, eight hexadecimal digits; drawn again when it is not given. */
  readonly token?: string;
}

/**
 * A file that appears under its name only when it is whole: bytes go to an unpredictable temporary name next to it,
 * are synced, and are renamed on `close`. Links are never followed: neither at the temporary name nor at the
 * file's own.
 *
 * @throws FaultError where it cannot be written; on `close`, `conflict` when `replace` is false and the name is taken
 */
export async function createFile(path: string, options: CreateOptions = {}): Promise<ByteSink> {
  const name = basename(path);
  const worded = <T>(work: Promise<T>) => work.catch((error: unknown) => Promise.reject(wordedFault(error, name)));
  const { from, durable = true, replace = true, token } = options;
  const temporary = temporaryName(path, token);
  let handle: FileHandle | undefined;
  if (from !== undefined) {
    await worded(copyFile(from, temporary, constants.COPYFILE_FICLONE | constants.COPYFILE_EXCL));
    handle = await worded(open(temporary, constants.O_RDWR | constants.O_NOFOLLOW));
  }
  const opened = async () => (handle ??= await worded(open(temporary, 'wx+')));
  let at = 0;
  let gathered: Uint8Array[] = [];
  let gatheredBytes = 0;
  const flush = async () => {
    const parts = gathered;
    gathered = [];
    gatheredBytes = 0;
    if (parts.length > 0) at = await worded(writeAll(await opened(), parts, at));
  };
  const abandon = async () => {
    await handle?.close().catch(() => {});
    await rm(temporary, { force: true }).catch(() => {});
  };
  return {
    write: async (bytes) => {
      if (bytes.length >= SMALL_BYTES) {
        await flush();
        at = await worded(writeAll(await opened(), [bytes], at));
        return;
      }
      // The caller may reuse the buffer after we return.
      gathered.push(copyOf(bytes));
      gatheredBytes += bytes.length;
      if (gatheredBytes >= GATHER_BYTES) await flush();
    },
    ...(from === undefined
      ? {}
      : {
          skip: async (length: number) => {
            await flush();
            at += length;
          },
        }),
    written: async () => {
      await flush();
      const size = at;
      const read = readingAhead(
        async (offset, length) => worded(readAll(await opened(), offset, length)),
        () => size,
      );
      return {
        name,
        size,
        read: async (offset, length) => {
          checkRange(name, size, offset, length);
          return read(offset, length);
        },
      };
    },
    close: async () => {
      try {
        if (handle === undefined && !durable) {
          // Thousands of small files are taken out: four calls each, and no waiting for a thread between them.
          writeSmall(temporary, gathered);
        } else {
          await flush();
          const file = await opened();
          if (from !== undefined) await worded(file.truncate(at));
          if (durable) await worded(file.sync());
          await file.close();
        }
        giveName(temporary, path, replace);
      } catch (error) {
        await abandon();
        throw wordedFault(error, name);
      }
    },
    abandon,
  };
}

function wordedFault(error: unknown, name: string): unknown {
  return error instanceof FaultError ? error : new FaultError(faultOf(error, name), { cause: error });
}

/** Bytes of the name that a file system takes, less what is put around it. */
const MAX_STEM_BYTES = 255 - '..12345678.part'.length;

function temporaryName(path: string, token = newToken()): string {
  let stem = basename(path);
  while (Buffer.byteLength(stem) > MAX_STEM_BYTES) stem = stem.slice(0, -1);
  return join(dirname(path), `.${stem}.${token}.part`);
}

/** For temporary names of files that belong together: see {@link removeTemporary}. */
export function newToken(): string {
  // Node keeps random bytes for these ready, where randomBytes asks the system each time.
  return randomUUID().slice(0, 8);
}

/** Removes what a program that was killed left half written in a folder under temporary names with this token. */
export async function removeTemporary(folder: string, token: string): Promise<void> {
  const names = await readdir(folder).catch(() => []);
  for (const name of names)
    if (name.startsWith('.') && name.endsWith(`.${token}.part`)) await rm(join(folder, name), { force: true });
}

/** Exclusive: neither a file nor a link of that name is opened. */
function writeSmall(path: string, parts: readonly Uint8Array[]): void {
  const file = openSync(path, 'wx');
  try {
    for (const part of parts) for (let done = 0; done < part.length;) done += writeSync(file, part, done);
  } finally {
    closeSync(file);
  }
}

/** Moves the whole file to its name. A hard link to it would fail where the name is taken, as a move would not. */
function giveName(temporary: string, path: string, replace: boolean): void {
  if (replace) return renameSync(temporary, path);
  try {
    linkSync(temporary, path);
  } catch (error) {
    if (!['EPERM', 'ENOTSUP', 'ENOSYS'].includes((error as { code?: string }).code ?? '')) throw error;
    // Where there are no links, the name is taken first and the file moved over it.
    closeSync(openSync(path, 'wx'));
    try {
      return renameSync(temporary, path);
    } catch (failure) {
      rmSync(path);
      throw failure;
    }
  }
  unlinkSync(temporary);
}

/** Fewer bytes than asked for where the file ends. */
export async function readAll(handle: FileHandle, offset: number, length: number): Promise<Uint8Array> {
  const bytes = Buffer.allocUnsafe(length);
  let done = 0;
  while (done < length) {
    const { bytesRead } = await handle.read(bytes, done, length - done, offset + done);
    if (bytesRead === 0) break;
    done += bytesRead;
  }
  return bytes.subarray(0, done);
}

/** @returns where the next byte goes */
export async function writeAll(handle: FileHandle, parts: readonly Uint8Array[], at: number): Promise<number> {
  let next = at;
  for (const part of parts) {
    for (let done = 0; done < part.length;) {
      const { bytesWritten } = await handle.write(part, done, part.length - done, next);
      done += bytesWritten;
      next += bytesWritten;
    }
  }
  return next;
}
