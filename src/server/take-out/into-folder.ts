/** Files of entries under a folder, each written whole or not at all. */
import { lstat, mkdir } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { createFile, makeBelow, openFile } from '../../core/bytes/node';
import { faultOf, FaultError } from '../../core/faults';
import { readEntry } from '../../core/recipe';
import { withArchive } from '../games';
import { underRoots } from '../storage';
import type { Destination } from './destination';
import type { Going } from './start';
import { Taken } from './taken';

/** @throws FaultError `not-allowed` for a folder outside of the roots */
export async function intoFolder(gameId: number, folder: string): Promise<Destination> {
  const to = await underRoots(folder);
  const taken = await Taken.read(gameId, to);
  return {
    folder: to,
    isKnown: async (path, mark) => taken.isThere(await safeTarget(to, path), mark),
    isThere: async (path, entry) => holds(await safeTarget(to, path), entry),
    async write(path, chunks, mark) {
      const target = await safeTarget(to, path);
      const sink = await createFile(target, { durable: false });
      let bytes = 0;
      try {
        for await (const chunk of chunks) {
          await sink.write(chunk);
          bytes += chunk.length;
        }
        await sink.close();
      } catch (error) {
        await sink.abandon();
        throw error;
      }
      if (mark !== undefined) await taken.note(target, mark);
      return bytes;
    },
    close: () => taken.keep(),
    abandon: () => taken.keep(),
  };
}

async function holds(target: string, { archive, n, size }: Going): Promise<boolean> {
  const there = await lstat(target).catch(() => undefined);
  if (there?.isFile() !== true || there.size !== size) return false;
  const file = await openFile(target);
  try {
    return await withArchive(archive, async (opened) => {
      let at = 0;
      for await (const chunk of readEntry(opened, n)) {
        if (Buffer.compare(chunk, await file.read(at, chunk.length)) !== 0) return false;
        at += chunk.length;
      }
      return at === file.size;
    });
  } finally {
    await file.close();
  }
}

/** The path under `to`, made sure that no link in between leads out of it. */
async function safeTarget(to: string, path: string): Promise<string> {
  await mkdir(to, { recursive: true }).catch((error: unknown) => {
    throw new FaultError(faultOf(error, to), { cause: error });
  });
  const real = await underRoots(await makeBelow(to, dirname(path)));
  return join(real, basename(path));
}
