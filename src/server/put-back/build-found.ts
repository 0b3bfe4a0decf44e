/** Files no recipe knows: what was found in them takes other bytes in the very same place, and nothing else changes. */
import { readChunks, type ByteSource } from '../../core/bytes';
import { openFile } from '../../core/bytes/node';
import { fillPlace } from '../../core/carve';
import { FaultError } from '../../core/faults';
import type { ArchiveModel } from '../database';
import { archiveFile, withArchive } from '../games';
import type { RunSetting } from '../runs/run-context';
import type { BuildFile } from '../shapes';
import { blobPath, keepBlob, readBlob, type Blob } from '../storage';
import type { Replacement } from './replacement';

interface Patch {
  readonly at: number;
  readonly bytes: Uint8Array;
}

/** @throws FaultError `no-recipe` for what is packed in it, `limit-reached` for what is longer than its place */
export async function buildFound(
  row: ArchiveModel,
  replace: readonly Replacement[],
  { signal, progress, log }: Pick<RunSetting, 'signal' | 'progress' | 'log'>,
): Promise<BuildFile> {
  const patches = await patchesOf(row, replace);
  const source = await openFile(await archiveFile(row), row.path);
  try {
    const blob = await keepBlob(patched());
    await checkPatched(blob, source, patches);
    log(`${row.path}: ${patches.length} places have other bytes, ${source.size.toLocaleString('en')} bytes as before`);
    return { name: row.path, size: blob.size, sha256: blob.sha256 };
  } finally {
    await source.close();
  }

  async function* patched(): AsyncGenerator<Uint8Array> {
    let at = 0;
    for (const { at: from, bytes } of [...patches, { at: source.size, bytes: new Uint8Array(0) }]) {
      for await (const chunk of readChunks(source, at, from - at, { signal })) yield chunk;
      yield bytes;
      at = from + bytes.length;
      progress(at, source.size, 'bytes');
    }
  }
}

/** In the order of the file. */
async function patchesOf(row: ArchiveModel, replace: readonly Replacement[]): Promise<Patch[]> {
  return withArchive(row.id, async ({ entries }) => {
    const patches: Patch[] = [];
    for (const { n, blob } of replace) {
      const entry = `${row.path}/${entries.path(n)}`;
      if (entries.method(n) !== 'stored')
        throw new FaultError({
          code: 'no-recipe',
          file: row.path,
          entry,
          what: 'what is packed in a file that no recipe knows can be taken out, and not put back',
          hint: 'Write a recipe for the file, or undo the change.',
        });
      const bytes = await readBlob(blob);
      patches.push({ at: entries.at(n), bytes: fillPlace(bytes, entries.stored(n), entry) });
    }
    patches.sort((a, b) => a.at - b.at);
    const overlap = patches.find(({ at }, i) => i > 0 && at < patches[i - 1]!.at + patches[i - 1]!.bytes.length);
    if (overlap === undefined) return patches;
    throw new FaultError({
      code: 'conflict',
      file: row.path,
      offset: overlap.at,
      what: 'two of the changes lie in each other in the file',
      hint: 'Undo one of them.',
    });
  });
}

/** Read from the disk again: the places are as they were meant, and all between them is as it was. @throws FaultError */
async function checkPatched(blob: Blob, before: ByteSource, patches: readonly Patch[]): Promise<void> {
  const after = await openFile(blobPath(blob.sha256), before.name);
  const differs = (offset: number) =>
    new FaultError({ code: 'not-reproduced', file: before.name, offset, what: 'the file does not read back as meant' });
  try {
    if (after.size !== before.size) throw differs(Math.min(after.size, before.size));
    let at = 0;
    for (const { at: from, bytes } of [...patches, { at: before.size, bytes: new Uint8Array(0) }]) {
      for await (const chunk of readChunks(before, at, from - at)) {
        if (Buffer.compare(chunk, await after.read(at, chunk.length)) !== 0) throw differs(at);
        at += chunk.length;
      }
      if (Buffer.compare(bytes, await after.read(from, bytes.length)) !== 0) throw differs(from);
      at = from + bytes.length;
    }
  } finally {
    await after.close();
  }
}
