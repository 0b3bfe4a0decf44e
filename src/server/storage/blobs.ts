/** Big bytes as files named by their SHA-256, under `ZERO_LATCH_HOME/blobs`. */
import { execFile } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { createFile } from '../../core/bytes/node';
import { FaultError, faultOf } from '../../core/faults';
import { env } from '../env';

export interface Blob {
  readonly sha256: string;
  readonly size: number;
}

/** Where a blob lies; it need not exist. */
export function blobPath(sha256: string): string {
  if (!/^[0-9a-f]{64}$/.test(sha256))
    throw new FaultError({ code: 'invalid-request', what: 'this is not the name of a blob' });
  return join(env().home, 'blobs', sha256.slice(0, 2), sha256);
}

export async function hasBlob(sha256: string): Promise<boolean> {
  return (await stat(blobPath(sha256)).catch(() => undefined)) !== undefined;
}

/** Keeps a file that `write` makes under a temporary name; its bytes are hashed once it is whole. */
export async function keepWritten(write: (path: string) => Promise<void>): Promise<Blob> {
  const folder = join(env().home, 'blobs', 'incoming');
  await mkdir(folder, { recursive: true });
  const incoming = join(folder, randomBytes(12).toString('hex'));
  try {
    await write(incoming);
    const hash = createHash('sha256');
    for await (const chunk of createReadStream(incoming, { highWaterMark: 1 << 20 })) hash.update(chunk as Uint8Array);
    const { size } = await stat(incoming);
    return await named(incoming, hash.digest('hex'), size);
  } catch (error) {
    await rm(incoming, { force: true });
    throw error;
  }
}

/** A whole file gets the name of its bytes. */
async function named(incoming: string, sha256: string, size: number): Promise<Blob> {
  const path = blobPath(sha256);
  try {
    if (await hasBlob(sha256)) await rm(incoming);
    else {
      await mkdir(dirname(path), { recursive: true });
      await rename(incoming, path);
    }
  } catch (error) {
    throw new FaultError(faultOf(error), { cause: error });
  }
  return { sha256, size };
}

/** Keeps bytes that are in memory. */
export function keepBytes(bytes: Uint8Array): Promise<Blob> {
  return keepBlob(
    (async function* once() {
      yield bytes;
    })(),
  );
}

/** Keeps all bytes of `chunks`: written under a temporary name, synced, then renamed to their hash. */
export async function keepBlob(chunks: AsyncIterable<Uint8Array>, options: { maxBytes?: number } = {}): Promise<Blob> {
  const folder = join(env().home, 'blobs', 'incoming');
  await mkdir(folder, { recursive: true });
  const incoming = join(folder, randomBytes(12).toString('hex'));
  const hash = createHash('sha256');
  let size = 0;
  const sink = await createFile(incoming);
  try {
    for await (const chunk of chunks) {
      size += chunk.length;
      if (options.maxBytes !== undefined && size > options.maxBytes) {
        throw new FaultError({
          code: 'limit-reached',
          what: 'the file is too large',
          limit: `bytes of one file, ${options.maxBytes.toLocaleString('en')}`,
        });
      }
      hash.update(chunk);
      await sink.write(chunk);
    }
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
  return named(incoming, hash.digest('hex'), size);
}

/** Blobs that are written at a time. */
const AT_ONCE = 16;

/** Keeps many small things: written one beside the other, and synced once when all of them are there. */
export async function keepAll(all: readonly Uint8Array[]): Promise<Blob[]> {
  const blobs = all.map((bytes) => ({
    sha256: createHash('sha256').update(bytes).digest('hex'),
    size: bytes.length,
  }));
  const folder = join(env().home, 'blobs', 'incoming');
  await mkdir(folder, { recursive: true });
  const waiting = new Map(blobs.map(({ sha256 }, i) => [sha256, all[i]!])).entries();
  let written = 0;
  const lane = async () => {
    for (const [sha256, bytes] of waiting) {
      if (await hasBlob(sha256)) continue;
      const incoming = join(folder, randomBytes(12).toString('hex'));
      await writeFile(incoming, bytes, { flag: 'wx' });
      await named(incoming, sha256, bytes.length);
      written++;
    }
  };
  try {
    await Promise.all(Array.from({ length: AT_ONCE }, lane));
    // The file system as a whole: one such call costs less than thousands of files, each by itself.
    if (written > 0) await promisify(execFile)('sync', ['-f', folder]);
  } catch (error) {
    throw new FaultError(faultOf(error), { cause: error });
  }
  return blobs;
}
