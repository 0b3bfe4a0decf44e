/** Archives that are laid over each other, as games do with patches: an entry of a later one covers those before it. */
import picomatch from 'picomatch';
import type { FileSource } from '../core/bytes/node';
import { FaultError } from '../core/faults';
import { followLink, uniquePaths, type Archive } from '../core/recipe';
import { withOpened, type ArchiveOptions } from './archive-options';

export interface Layer {
  readonly archive: Archive;
  readonly sources: readonly FileSource[];
  /** The path that an entry is known by: no two have the same. */
  readonly pathOf: (entry: number) => string;
}

/** An entry that nothing covers. */
export interface Chosen {
  readonly layer: Layer;
  readonly n: number;
  readonly path: string;
}

/**
 * Opens archives and hands them to `work`; the files are closed afterwards.
 *
 * @param files of each archive, the main one first
 */
export async function withLayers(
  files: readonly (readonly string[])[],
  options: ArchiveOptions,
  work: (layers: readonly Layer[]) => Promise<void>,
  opened: readonly Layer[] = [],
): Promise<void> {
  const [first, ...others] = files;
  if (first === undefined) return work(opened);
  await withOpened(first, options, (archive, sources) => {
    const layer = { archive, sources, pathOf: uniquePaths(archive.entries) };
    return withLayers(others, options, work, [...opened, layer]);
  });
}

/**
 * The entries that nothing covers or removes, in the order of their archives.
 *
 * @param patterns paths, or patterns with * and **; all when there is none
 * @throws FaultError `no-such-entry` when none fits
 */
export function chooseEntries(layers: readonly Layer[], patterns: readonly string[]): Chosen[] {
  const exact = new Set(patterns);
  const matches = patterns.length === 0 ? undefined : picomatch([...patterns], { dot: true });
  const covered = new Set<string>();
  const chosen: Chosen[][] = [];
  for (const layer of [...layers].reverse()) {
    const { archive, pathOf } = layer;
    const own: Chosen[] = [];
    for (let n = 0; n < archive.entries.count; n++) {
      const path = pathOf(n);
      if (archive.entries.isDeleted(n) || covered.has(path)) continue;
      if (matches === undefined || exact.has(path) || matches(path)) own.push({ layer, n, path });
    }
    chosen.unshift(own);
    if (layers.length > 1) for (let n = 0; n < archive.entries.count; n++) covered.add(pathOf(n));
  }
  const all = chosen.flat();
  if (all.length > 0 || matches === undefined) return all;
  throw new FaultError({
    code: 'no-such-entry',
    what: `no entry is called ${patterns.join(' or ')}`,
    file: layers[0]!.archive.source.name,
    hint: 'zero-latch list shows the paths; ** stands for any folders.',
  });
}

/** A link to a folder, or out of the archive: there is no file to be taken out. */
export const leadsNowhere = ({ layer, n }: Chosen): boolean => followLink(layer.archive, n) === undefined;

export const isFolder = ({ layer, n }: Chosen): boolean => layer.archive.entries.isDirectory(n);

/** A folder is known by something in it. */
export const inside = (entry: Chosen): string => (isFolder(entry) ? `${entry.path}/entry` : entry.path);
