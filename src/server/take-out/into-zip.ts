/** One ZIP that grows while a run writes it, and is downloaded while it grows. */
import { mkdir, open, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable, Writable } from 'node:stream';
import { setTimeout as pause } from 'node:timers/promises';
import { ZipWriterStream } from '@zip.js/zip.js';
import { readChunks } from '../../core/bytes';
import { fileScratch } from '../../core/bytes/node';
import { CancelledError, faultOf, FaultError, sayFault } from '../../core/faults';
import { RunModel } from '../database';
import { env } from '../env';
import { inOne, type Destination } from './destination';

/** The ZIP also lists what could not be taken: people who get it do not see the run. */
const FAILED = 'could-not-be-read.txt';
/** A ZIP can be downloaded again for so long. */
const KEPT_MS = 24 * 3_600_000;
/** How often a download asks whether there is more. */
const WAIT_MS = 200;
const CHUNK = 1 << 20;

const folderOfZips = () => join(env().home, 'zips');
const zipPath = (runId: number) => join(folderOfZips(), `${runId}.zip`);

/** Begins again, whatever an earlier try of the run wrote. */
export async function intoZip(runId: number): Promise<Destination> {
  await mkdir(folderOfZips(), { recursive: true });
  await sweep();
  const zip = new ZipWriterStream({ level: 6, useWebWorkers: false });
  const file = (await open(zipPath(runId), 'w')).createWriteStream();
  const failed = (zip.readable as ReadableStream<Uint8Array>)
    .pipeTo(Writable.toWeb(file) as WritableStream<Uint8Array>)
    .then(
      () => undefined,
      (error: unknown) => new FaultError(faultOf(error, `${runId}.zip`), { cause: error }),
    );
  /** Members are one after the other: each waits for the one before. */
  let last: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const mine = last.then(work, work);
    last = mine;
    return mine;
  };
  const write = (path: string, chunks: AsyncIterable<Uint8Array>) =>
    inTurn(async () => {
      const scratch = fileScratch();
      try {
        // Read to its end first: what fails on the way must not stand half in the ZIP.
        const source = await scratch.keep(chunks, path);
        const writer = zip.writable(path).getWriter();
        for await (const chunk of readChunks(source)) await Promise.race([writer.write(chunk), failed.then(throwIt)]);
        await Promise.race([writer.close(), failed.then(throwIt)]);
        return source.size;
      } finally {
        await scratch.release();
      }
    });
  return {
    folder: null,
    isKnown: () => Promise.resolve(false),
    isThere: () => Promise.resolve(false),
    write,
    async close(failures) {
      if (failures.length > 0) await write(FAILED, inOne(new TextEncoder().encode(`${failures.join('\n')}\n`)));
      await zip.close();
      throwIt(await failed);
    },
    async abandon() {
      // Half a ZIP is of no use; the run says so.
      file.destroy();
      await rm(zipPath(runId), { force: true });
    },
  };
}

function throwIt(error: Error | undefined): void {
  if (error !== undefined) throw error;
}

async function sweep(): Promise<void> {
  for (const name of await readdir(folderOfZips())) {
    const path = join(folderOfZips(), name);
    const { mtimeMs } = await stat(path);
    if (mtimeMs < Date.now() - KEPT_MS) await rm(path, { force: true });
  }
}

/** The bytes of a run's ZIP, as far as they are there, and then as they come. @throws FaultError `not-found` */
export async function downloadZip(
  gameId: number,
  runId: number,
  signal: AbortSignal,
): Promise<ReadableStream<Uint8Array>> {
  const run = await RunModel.findOne({ where: { gameId, id: runId, kind: 'take-out' } });
  const there = await stat(zipPath(runId)).catch(() => undefined);
  const ended = run === null || !['waiting', 'working'].includes(run.state);
  if (ended && (there === undefined || run?.state !== 'done'))
    throw new FaultError({
      code: 'not-found',
      what: 'there is no ZIP of that run any more',
      hint: 'Take out again: a ZIP is kept for a day.',
    });
  return Readable.toWeb(Readable.from(growing(runId, signal))) as ReadableStream<Uint8Array>;
}

async function* growing(runId: number, signal: AbortSignal): AsyncGenerator<Uint8Array> {
  let at = 0;
  for (;;) {
    if (signal.aborted) throw new CancelledError();
    // Asked before the size is: what the run wrote before it ended is all there then.
    const run = await RunModel.findByPk(runId, { attributes: ['state', 'fault'] });
    // What lies there before the run begins is of an earlier try.
    const begun = run?.state !== 'waiting';
    const handle = begun ? await open(zipPath(runId), 'r').catch(() => undefined) : undefined;
    if (handle !== undefined)
      try {
        for (;;) {
          const { bytesRead, buffer } = await handle.read(Buffer.allocUnsafe(CHUNK), 0, CHUNK, at);
          if (bytesRead === 0) break;
          yield buffer.subarray(0, bytesRead);
          at += bytesRead;
        }
      } finally {
        await handle.close();
      }
    if (run?.state === 'done') return;
    if (run === null || !['waiting', 'working', 'stopping'].includes(run.state))
      // Lets the browser know that the file is incomplete.
      throw new Error(run?.fault == null ? 'the run was stopped' : sayFault(run.fault));
    await pause(WAIT_MS, undefined, { signal });
  }
}
