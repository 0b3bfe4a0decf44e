/** The file-backed sources and sinks: the only part of bytes/ that touches the file system. */
import { lstat, mkdtemp, open, rm, type FileHandle } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { faultOf, FaultError, FormatError } from '../faults';
import type { ByteSink, Scratch } from './byte-sink';
import { bufferSource, checkRange, copyOf, type ByteSource } from './byte-source';
import { createFile, readAll, writeAll } from './node-create';
import { readingAhead } from './read-ahead';

export { makeBelow } from './node-below';
export { createFile, newToken, removeTemporary } from './node-create';

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

/**
 * Compares a file with bytes that come in pieces, no further than the first difference.
 *
 * @returns how many bytes both have; undefined when they differ, or the path is no file
 */
export async function bytesIfSame(path: string, chunks: AsyncIterable<Uint8Array>): Promise<number | undefined> {
  if (!(await lstat(path)).isFile()) return undefined;
  const file = await openFile(path);
  try {
    let at = 0;
    for await (const chunk of chunks) {
      if (at + chunk.length > file.size) return undefined;
      if (Buffer.compare(chunk, await file.read(at, chunk.length)) !== 0) return undefined;
      at += chunk.length;
    }
    return at === file.size ? at : undefined;
  } finally {
    await file.close();
  }
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
