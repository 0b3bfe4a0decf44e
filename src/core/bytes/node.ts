/** The file-backed sources and sinks: the only part of bytes/ that touches the file system. */
import { constants } from 'node:fs';
import { copyFile, mkdtemp, open, rename, rm, type FileHandle } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { faultOf, FaultError, FormatError } from '../faults';
import type { ByteSink, Scratch } from './byte-sink';
import { bufferSource, checkRange, copyOf, type ByteSource } from './byte-source';
import { readingAhead } from './read-ahead';

/** A file opened for reading; the owner closes it. */
export interface FileSource extends ByteSource {
  readonly path: string;
  /** Milliseconds since 1970. */
  readonly modified: number;
  close(): Promise<void>;
}

/**
 * Opens a file for reading.
 *
 * @throws FaultError `not-found`, `not-allowed` … in words a person can act on.
 */
export async function openFile(path: string, name = basename(path)): Promise<FileSource> {
  let handle: FileHandle;
  try {
    handle = await open(path, 'r');
  } catch (error) {
    throw new FaultError(faultOf(error, name), { cause: error });
  }
  const facts = await handle.stat();
  if (!facts.isFile()) {
    await handle.close();
    throw new FaultError({
      code: 'wrong-kind',
      file: name,
      expected: 'a file',
      found: facts.isDirectory() ? 'a folder' : 'something else',
    });
  }
  const size = facts.size;
  const read = readingAhead(
    async (offset, length) => {
      const bytes = Buffer.allocUnsafe(length);
      for (let done = 0; done < length;) {
        const { bytesRead } = await handle.read(bytes, done, length - done, offset + done);
        if (bytesRead === 0) {
          throw new FormatError({
            code: 'file-changed',
            file: name,
            offset: offset + done,
            expected: `${size.toLocaleString('en')} bytes, as when it was opened`,
            found: 'the end of the file',
            hint: 'Is the game updating? Scan again when it is done.',
          });
        }
        done += bytesRead;
      }
      return bytes;
    },
    () => size,
  );
  return {
    name,
    path,
    size,
    modified: facts.mtimeMs,
    read: async (offset, length) => {
      checkRange(name, size, offset, length);
      return read(offset, length);
    },
    close: () => handle.close(),
  };
}

/** A file that is opened for each read and closed again: for thousands of small files at once. */
export async function looseFile(path: string, name = basename(path)): Promise<FileSource> {
  const { size, modified, close } = await openFile(path, name);
  await close();
  const read = async (offset: number, length: number) => {
    const file = await openFile(path, name);
    try {
      if (file.size === size) return await file.read(offset, length);
      throw new FormatError({
        code: 'file-changed',
        file: name,
        expected: `${size.toLocaleString('en')} bytes, as when it was opened`,
        found: file.size.toLocaleString('en'),
        hint: 'Is the game updating? Scan again when it is done.',
      });
    } finally {
      await file.close();
    }
  };
  return { name, path, size, modified, read, close: async () => {} };
}

/** Writes below this size are gathered; larger ones go to the file as they are. */
const SMALL_BYTES = 64 << 10;
/** What is gathered reaches the file at this many bytes. */
const GATHER_BYTES = 1 << 20;

/**
 * A file that appears under its name only when it is whole: bytes go to a temporary name beside it, are synced, and are
 * renamed on `close`.
 *
 * @param options.durable false leaves syncing to the system: what is taken out can be taken out again, and waiting for
 *   the disk after each of thousands of files would be most of the time
 * @param options.from a file it starts as a copy of, made by the system, copy-on-write where it can: what is skipped stays
 */
export async function createFile(path: string, options: { durable?: boolean; from?: string } = {}): Promise<ByteSink> {
  // One name for each target: what a killed process left behind is written over by the next try.
  const temporary = join(dirname(path), `.${basename(path)}.part`);
  const name = basename(path);
  const worded = <T>(work: Promise<T>) =>
    work.catch((error: unknown) => {
      throw new FaultError(faultOf(error, name), { cause: error });
    });
  const { from } = options;
  if (from !== undefined) await worded(copyFile(from, temporary, constants.COPYFILE_FICLONE));
  const handle = await worded(open(temporary, from === undefined ? 'w+' : 'r+'));
  let at = 0;
  let gathered: Uint8Array[] = [];
  let gatheredBytes = 0;
  const flush = async () => {
    const parts = gathered;
    gathered = [];
    gatheredBytes = 0;
    if (parts.length > 0) at = await worded(writeAll(handle, parts, at));
  };
  const abandon = async () => {
    await handle.close().catch(() => {});
    await rm(temporary, { force: true }).catch(() => {});
  };
  return {
    write: async (bytes) => {
      if (bytes.length >= SMALL_BYTES) {
        await flush();
        at = await worded(writeAll(handle, [bytes], at));
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
        (offset, length) => worded(readAll(handle, offset, length)),
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
        await flush();
        if (from !== undefined) await worded(handle.truncate(at));
        if (options.durable !== false) await worded(handle.sync());
        await handle.close();
        await worded(rename(temporary, path));
      } catch (error) {
        await abandon();
        throw error;
      }
    },
    abandon,
  };
}

/** Fewer bytes than asked for where the file ends. */
async function readAll(handle: FileHandle, offset: number, length: number): Promise<Uint8Array> {
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
async function writeAll(handle: FileHandle, parts: readonly Uint8Array[], at: number): Promise<number> {
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

/** Up to this many bytes a kept thing is small. */
const SMALL_KEPT_BYTES = 4 << 20;
/** All that stays in memory together. */
const IN_MEMORY_TOTAL = 64 << 20;

/** A scratch that keeps small things in memory, then in one shared file under `folder`; large things get their own. */
export function fileScratch(folder = tmpdir()): Scratch {
  let home: Promise<string> | undefined;
  let inMemory = 0;
  let files = 0;
  let shared: Promise<SharedFile> | undefined;
  const sources: FileSource[] = [];
  const pathOfNext = async () => join(await (home ??= mkdtemp(join(folder, 'zero-latch-'))), String(files++));
  return {
    keep: async (chunks, name) => {
      const parts: Uint8Array[] = [];
      let size = 0;
      let sink: ByteSink | undefined;
      let path = '';
      try {
        for await (const chunk of chunks) {
          size += chunk.length;
          if (sink === undefined && size <= SMALL_KEPT_BYTES) {
            parts.push(copyOf(chunk));
            continue;
          }
          if (sink === undefined) {
            path = await pathOfNext();
            sink = await createFile(path, { durable: false });
            for (const part of parts.splice(0)) await sink.write(part);
          }
          await sink.write(chunk);
        }
      } catch (error) {
        await sink?.abandon();
        throw error;
      }
      if (sink !== undefined) {
        await sink.close();
        const source = await openFile(path, name);
        sources.push(source);
        return source;
      }
      if (inMemory + size <= IN_MEMORY_TOTAL) {
        inMemory += size;
        return bufferSource(Buffer.concat(parts), name);
      }
      shared ??= pathOfNext().then(sharedFile);
      return (await shared).keep(parts, size, name);
    },
    release: async () => {
      for (const source of sources.splice(0)) await source.close();
      await (await shared)?.close();
      if (home !== undefined) await rm(await home, { recursive: true, force: true });
      home = undefined;
      shared = undefined;
      inMemory = 0;
    },
  };
}

/** A file many small things share: thousands of them would otherwise be thousands of open files. */
interface SharedFile {
  keep(parts: readonly Uint8Array[], size: number, name: string): Promise<ByteSource>;
  close(): Promise<void>;
}

async function sharedFile(path: string): Promise<SharedFile> {
  const worded = <T>(work: Promise<T>) =>
    work.catch((error: unknown) => {
      throw new FaultError(faultOf(error, basename(path)), { cause: error });
    });
  const handle = await worded(open(path, 'w+'));
  let end = 0;
  let last = Promise.resolve();
  const read = readingAhead(
    (offset, length) => worded(readAll(handle, offset, length)),
    () => end,
  );
  return {
    keep: async (parts, size, name) => {
      let start = 0;
      // One after the other: what is read ahead of one thing must not begin with another that is still being written.
      const turn = last.then(async () => {
        start = end;
        await worded(writeAll(handle, parts, start));
        end += size;
      });
      last = turn.catch(() => {});
      await turn;
      return {
        name,
        size,
        read: async (offset, length) => {
          checkRange(name, size, offset, length);
          return read(start + offset, length);
        },
      };
    },
    close: () => handle.close(),
  };
}
