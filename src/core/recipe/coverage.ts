import { RangeSet, type ByteSource } from '../bytes';
import { throwIfStopped } from '../faults';
import type { OpenedArchive } from './archive';

/** The bytes of the file that the recipe explains: regions, entries, and fill between them. */
export async function explainedBytes(archive: OpenedArchive, signal?: AbortSignal): Promise<RangeSet> {
  const ranges = new RangeSet();
  for (const found of archive.regions.values()) {
    // What lies behind the shape inside an unlocked region cannot be drawn in the file; it is told as not explained.
    const unread = found.plain.length - found.explained;
    ranges.add(found.at, Math.max(0, found.length - unread));
  }
  const { entries, source, recipe } = archive;
  const order = Array.from({ length: entries.count }, (_, i) => i).sort((a, b) => entries.at(a) - entries.at(b));
  for (const entry of order)
    if (entries.at(entry) + entries.stored(entry) <= source.size) ranges.add(entries.at(entry), entries.stored(entry));
  for (const gap of ranges.missing(source.size)) {
    throwIfStopped(signal);
    if (await isFill(source, gap.at, gap.length, recipe.dataRegion.fill)) ranges.add(gap.at, gap.length);
  }
  return ranges;
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
