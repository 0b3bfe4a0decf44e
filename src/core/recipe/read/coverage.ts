import { RangeSet, type ByteSource } from '../../bytes';
import { throwIfStopped } from '../../faults';
import { isStretch } from '../formula/value';
import type { OpenedArchive } from './opened-archive';
import { knownBlocks } from './entry-bytes';
import type { FoundRegion } from './read-region';

/** The bytes of each volume that the recipe explains: regions, entries, and fill between them. */
export async function explainedBytes(archive: OpenedArchive, signal?: AbortSignal): Promise<RangeSet[]> {
  const sets = archive.volumes.map(() => new RangeSet());
  for (const found of archive.regions.values()) addRegion(sets[found.volume]!, found);
  const { entries, volumes } = archive;
  if (archive.recipe.entries.blocks?.at !== undefined) addBlocks(sets, archive);
  else if (archive.dataSpace === undefined) {
    const order = Array.from({ length: entries.count }, (_, i) => i).sort((a, b) => entries.at(a) - entries.at(b));
    for (const entry of order) {
      const volume = volumes[entries.volume(entry)];
      const stored = entries.stored(entry);
      if (volume === undefined || entries.isDeleted(entry) || Number.isNaN(stored)) continue;
      if (entries.at(entry) + stored <= volume.source.size) sets[entries.volume(entry)]!.add(entries.at(entry), stored);
    }
  }
  for (const [i, { source, set }] of volumes.entries()) {
    const region = archive.recipe.dataRegions.find(({ volume }) => volume === set.name);
    const fill = region?.fill ?? 0;
    const edges = region?.gaps === 'kept' ? edgesOf(archive, i) : undefined;
    for (const gap of sets[i]!.missing(source.size)) {
      throwIfStopped(signal);
      // The recipe says that bytes beside entries may be no one's.
      if (edges?.has(gap.at) === true || edges?.has(gap.at + gap.length) === true) sets[i]!.add(gap.at, gap.length);
      else if (await isFill(source, gap.at, gap.length, fill)) sets[i]!.add(gap.at, gap.length);
    }
  }
  return sets;
}

/** Where entries of a volume begin and end. */
function edgesOf({ entries }: OpenedArchive, volume: number): Set<number> {
  const edges = new Set<number>();
  for (let entry = 0; entry < entries.count; entry++) {
    if (entries.volume(entry) !== volume || entries.isDeleted(entry)) continue;
    edges.add(entries.at(entry)).add(entries.at(entry) + entries.stored(entry));
  }
  return edges;
}

/** Blocks of entries that lie anywhere. */
function addBlocks(sets: readonly RangeSet[], archive: OpenedArchive): void {
  const { entries, volumes } = archive;
  const ranges: { volume: number; at: number; length: number }[] = [];
  for (let entry = 0; entry < entries.count; entry++) {
    if (entries.isDeleted(entry)) continue;
    const volume = entries.volume(entry);
    for (const { place, stored } of knownBlocks(archive, entry)) ranges.push({ volume, at: place!, length: stored });
  }
  ranges.sort((a, b) => a.at - b.at);
  for (const { volume, at, length } of ranges)
    if (at + length <= (volumes[volume]?.source.size ?? 0)) sets[volume]!.add(at, length);
}

function addRegion(ranges: RangeSet, found: FoundRegion): void {
  if (found.unlocked) {
    // What lies behind the shape inside an unlocked region cannot be drawn in the file; it counts as unexplained.
    const apart = hasFieldsApart(found);
    const unread = apart || found.plain === undefined ? 0 : found.plain.length - found.explained;
    ranges.add(found.at, Math.max(0, found.length - unread));
    return;
  }
  ranges.add(found.at, found.explained);
  for (const table of found.tables.all()) {
    for (const field of table.shape.fields) {
      if (field.at === undefined) continue;
      for (let row = 0; row < table.length; row++) {
        const value = table.columns[field.index]!.kept(row);
        if (value === undefined) continue;
        ranges.add(
          table.markedStart(field.index, row),
          isStretch(value) ? value.length : table.markedLength(field.index, row),
        );
      }
    }
  }
}

function hasFieldsApart(found: FoundRegion): boolean {
  return [...found.tables.all()].some((table) => table.shape.fields.some((field) => field.at !== undefined));
}

/** True when the stretch is nothing but the fill byte. */
export async function isFill(source: ByteSource, at: number, length: number, fill: number): Promise<boolean> {
  for (let done = 0; done < length;) {
    const piece = await source.read(at + done, Math.min(1 << 20, length - done));
    if (!piece.every((byte) => byte === fill)) return false;
    done += piece.length;
  }
  return true;
}
