/** Bytes named by their SHA-256: as files under `ZERO_LATCH_HOME/blobs`, and what is small and comes by the thousand as rows. */
import { createHash, randomBytes } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, readFile, rename, rm, stat, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { bufferSource, type ByteSource } from '../../core/bytes';
import { createFile, openFile } from '../../core/bytes/node';
import { FaultError, faultOf } from '../../core/faults';
import { env } from '../env';
import { keepSmall, MOST_SMALL_BYTES, readSmall } from './small-blobs';

export interface Blob {
  readonly sha256: string;
  readonly size: number;
}

/** Where a blob lies that is a file; it need not exist. Of what a change holds no one knows that: see {@link blobFile}. */
export function blobPath(sha256: string): string {
  if (!/^[0-9a-f]{64}$/.test(sha256))
    throw new FaultError({ code: 'invalid-request', what: 'this is not the name of a blob' });
  return join(env().home, 'blobs', sha256.slice(0, 2), sha256);
}

const isFile = async (sha256: string) => (await stat(blobPath(sha256)).catch(() => undefined)) !== undefined;

export async function hasBlob(sha256: string): Promise<boolean> {
  return (await isFile(sha256)) || (await readSmall([sha256])).size > 0;
}

/** All bytes of a blob. @throws FaultError when it is not kept */
export async function readBlob(sha256: string): Promise<Buffer> {
  if (!(await isFile(sha256))) {
    const small = (await readSmall([sha256])).get(sha256);
    if (small !== undefined) return small;
  }
  try {
    return await readFile(blobPath(sha256));
  } catch (error) {
    throw new FaultError(faultOf(error), { cause: error });
  }
}

/** A blob to be read in parts; the caller closes it. */
export async function openBlob(sha256: string, name: string): Promise<ByteSource & { close(): Promise<void> }> {
  if (!(await isFile(sha256))) {
    const small = (await readSmall([sha256])).get(sha256);
    if (small !== undefined) return { ...bufferSource(small, name), close: () => Promise.resolve() };
  }
  return openFile(blobPath(sha256), name);
}

/** A file with the bytes of a blob, for programs that read files: one that is kept as a row is written out. */
export async function blobFile(sha256: string): Promise<string> {
  if (!(await isFile(sha256))) {
    const small = (await readSmall([sha256])).get(sha256);
    if (small !== undefined) await keepBytes(small);
  }
  return blobPath(sha256);
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

/** True when the file is there; it counts as kept just now, so that nothing collects it. */
async function touched(path: string): Promise<boolean> {
  const now = new Date();
  try {
    await utimes(path, now, now);
    return true;
  } catch (error) {
    if ((error as { code?: string }).code === 'ENOENT') return false;
    throw error;
  }
}

/** A whole file gets the name of its bytes. */
async function named(incoming: string, sha256: string, size: number): Promise<Blob> {
  const path = blobPath(sha256);
  try {
    if (await touched(path)) await rm(incoming);
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

/** Keeps many things, most of them small. */
export async function keepAll(all: readonly Uint8Array[]): Promise<Blob[]> {
  const blobs = all.map((bytes) => ({
    sha256: createHash('sha256').update(bytes).digest('hex'),
    size: bytes.length,
  }));
  const small = new Map<string, Uint8Array>();
  for (const [i, bytes] of all.entries())
    if (bytes.length <= MOST_SMALL_BYTES) small.set(blobs[i]!.sha256, bytes);
    else await keepBytes(bytes);
  await keepSmall(small);
  return blobs;
}

/** Many blobs by their SHA-256, small ones with few questions. @throws FaultError when one is not kept */
export async function readAll(all: Iterable<string>): Promise<Map<string, Buffer>> {
  const names = [...new Set(all)];
  const found = await readSmall(names);
  for (const name of names) if (!found.has(name)) found.set(name, await readBlob(name));
  return found;
}
