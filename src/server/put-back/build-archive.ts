/** One archive with its changes, written as blobs, read again and proven; or only planned, to know what would be written. */
import { bufferSource, type ByteSource } from '../../core/bytes';
import { createFile, fileScratch } from '../../core/bytes/node';
import { FaultError } from '../../core/faults';
import { loopEdits } from '../../core/forms/sound';
import {
  isUnchanged,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  verifyWritten,
  volumeBytes,
  writeVolume,
  type Archive,
  type FieldEdit,
  type Layout,
  type PlannedVolume,
  type Proof,
} from '../../core/recipe';
import { startOf } from '../../core/recipe/node';
import { knownNames } from '../games';
import type { RunSetting } from '../runs/run-context';
import type { BuildFile } from '../shapes';
import { keepBlob, keepWritten, openBlob, readAll, type Blob } from '../storage';
import type { Group } from './groups';
import type { Replacement } from './replacement';

export interface BuiltVolume extends BuildFile {
  /** Nothing changed in it. */
  readonly copied: boolean;
}

export interface BuildSetting extends Pick<RunSetting, 'signal' | 'progress' | 'log'> {
  /** Nothing is written, and nothing proven: it is only worked out what would be. */
  readonly dry: boolean;
}

/** Changes that are read at once rather than from open files. */
const SMALL_BYTES = 16 << 10;

/**
 * @param name the file's name in the game folder
 * @returns the volumes; without hashes, and no proof, where nothing is written
 */
export async function buildArchive(
  archive: Archive,
  group: Group,
  name: string,
  layout: Layout,
  { signal, progress, log, dry }: BuildSetting,
): Promise<{ volumes: BuiltVolume[]; proof: Proof | null }> {
  const scratch = fileScratch();
  const opened: { close(): Promise<void> }[] = [];
  try {
    const fresh = [...group.replace, ...group.add];
    // A table of texts has more changes than a process may have files open.
    const small = await readAll(fresh.filter(({ size }) => size <= SMALL_BYTES).map(({ blob }) => blob));
    const sourceOf = async ({ blob, fileName }: { blob: string; fileName: string }): Promise<ByteSource> => {
      const bytes = small.get(blob);
      if (bytes !== undefined) return bufferSource(bytes, fileName);
      const source = await openBlob(blob, fileName);
      opened.push(source);
      return source;
    };
    const replace = new Map<number, ByteSource>();
    for (const one of group.replace) replace.set(one.n, await sourceOf(one));
    const add = [];
    for (const one of group.add) add.push({ path: one.path, bytes: await sourceOf(one) });
    const values = group.replace.flatMap((one) => loopValues(archive, one));
    const edits = { ...NO_EDITS, replace, add, remove: group.remove, values };
    const { layouts } = archive.recipe;
    // Each archive is laid out as its game loads it, whatever suits the others.
    const suited = layout === 'patch' || layouts.includes(layout) ? layout : layouts[0]!;
    if (suited !== layout) log(`${name}: laid out as ${suited}, for the game does not load it as ${layout}`);
    const plan = await planRebuild(archive, edits, { layout: suited, name, scratch, signal });
    const volumes: BuiltVolume[] = [];
    const built: ByteSource[] = [];
    let done = 0;
    for (const volume of plan.volumes) {
      const copied = volume.base !== undefined && (await isUnchanged(volume, volume.base));
      if (dry) {
        volumes.push({ name: volume.name, size: volume.size, sha256: '', copied });
        continue;
      }
      const before = done;
      const { sha256, size } = await keepVolume(volume, {
        signal,
        progress: (bytes) => progress(before + bytes, plan.size, 'bytes'),
      });
      done += volume.size;
      const source = await sourceOf({ blob: sha256, fileName: name.slice(0, name.lastIndexOf('/') + 1) + volume.name });
      await verifyWritten(volume, source, signal);
      built.push(source);
      volumes.push({ name: volume.name, size, sha256, copied });
    }
    if (dry) return { volumes, proof: null };
    log(
      `${name}: ${plan.size.toLocaleString('en')} bytes, ${plan.changed.length} new or changed, ${group.remove.size} removed, ${plan.movedBytes.toLocaleString('en')} bytes moved`,
    );
    const hashed = archive.recipe.entries.hashing !== undefined;
    const names = hashed ? [...(await knownNames(group.archive.gameId)), ...group.add.map(({ path }) => path)] : [];
    const again = await openArchive(archive.recipe, built, { keys: archive.keys, signal, scratch, names });
    const proof = await prove(again, {
      scratch,
      signal,
      progress: (entry, total) => progress(entry, total, 'entries'),
    });
    return { volumes, proof };
  } finally {
    await scratch.release();
    for (const source of opened) await source.close();
  }
}

/** A volume most of which stays where it was starts as a copy of it, which the system makes without reading where it can. */
function keepVolume(
  volume: PlannedVolume,
  options: { readonly signal: AbortSignal; readonly progress: (done: number) => void },
): Promise<Blob> {
  const start = startOf(volume);
  if (start.from === undefined) return keepBlob(volumeBytes(volume, options));
  return keepWritten(async (path) => {
    const sink = await createFile(path, start);
    try {
      await writeVolume(volume, sink, options);
      await sink.close();
    } catch (error) {
      await sink.abandon();
      throw error;
    }
  });
}

/** What a changed loop writes into the row of its cue. @throws FaultError when the row does not take one any more */
function loopValues(archive: Archive, { n, loop }: Replacement): FieldEdit[] {
  if (loop === undefined) return [];
  const values = loopEdits(archive, n, loop);
  if (values !== undefined) return values;
  throw new FaultError({
    code: 'conflict',
    file: archive.source.name,
    entry: archive.entries.path(n),
    what: 'the recipe of the archive no longer lets the loop of a sound be changed',
    hint: 'Bring the sound again: it is then fitted to the loop of the game.',
  });
}
