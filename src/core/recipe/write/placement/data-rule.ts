/** Where the bytes of entries may lie: as the recipe says, and where it does not, as they were found to lie. */
import type { ByteSource } from '../../../bytes';
import type { Region } from '../../model';
import type { OpenedArchive } from '../../read/archive';
import { isFill } from '../../read/coverage';

export interface DataRule {
  /** `rows`: entries lie in the order of their rows. */
  readonly order: 'rows' | 'any';
  /** `none`: nothing lies between entries but what their alignment needs. */
  readonly gaps: 'none' | 'kept';
  /** Each entry starts at a multiple of this. */
  readonly align: number;
  readonly fill: number;
}

/** Padding that is looked into before it is believed to be only that. */
const MOST_PADDINGS = 1000;

/**
 * The rule of a region in one volume.
 *
 * @param chained where each entry lies is worked out from the one before
 */
export async function dataRule(
  region: Region | undefined,
  archive: OpenedArchive | undefined,
  volume: number | undefined,
  chained: boolean,
): Promise<DataRule> {
  const align = region?.align ?? 1;
  const fill = region?.fill ?? 0;
  const stated = { order: region?.order, gaps: region?.gaps };
  const order = stated.order ?? (chained ? 'rows' : undefined);
  if (archive === undefined || volume === undefined)
    return { order: order ?? 'rows', gaps: stated.gaps ?? 'none', align, fill };
  const found = await foundRule(region, archive, volume, align, fill);
  return { order: order ?? found.order, gaps: stated.gaps ?? (chained ? 'kept' : found.gaps), align, fill };
}

interface Stretch {
  readonly at: number;
  readonly end: number;
}

async function foundRule(
  region: Region | undefined,
  archive: OpenedArchive,
  volume: number,
  align: number,
  fill: number,
): Promise<Pick<DataRule, 'order' | 'gaps'>> {
  const loose = { order: 'any', gaps: 'kept' } as const;
  const { entries, recipe } = archive;
  if (archive.dataSpace !== undefined || recipe.entries.data !== undefined) return loose;
  const data: Stretch[] = [];
  const starts = new Set<number>();
  let ascending = true;
  let last = -1;
  for (let i = 0; i < entries.count; i++) {
    const stored = entries.stored(i);
    if (entries.volume(i) !== volume || entries.isDeleted(i) || !(stored > 0)) continue;
    const at = entries.at(i);
    // Bytes shared with an entry before lie where that one's are.
    if (at > last) last = at;
    else ascending &&= starts.has(at);
    starts.add(at);
    data.push({ at, end: at + stored });
  }
  if (data.length === 0) return { order: 'rows', gaps: 'none' };
  data.sort((a, b) => a.at - b.at || a.end - b.end);
  const first = data[0]!.at;
  const end = data.reduce((most, one) => Math.max(most, one.end), 0);
  const between = regionStretches(archive, volume).filter((one) => one.at < end && one.end > first);
  const start = region === undefined ? first : archive.facts.start(region.index);
  const order = ascending && between.length === 0 ? 'rows' : 'any';
  const { source } = archive.volumes[volume]!;
  const dense = await isDense(source, [...data, ...between].sort((a, b) => a.at - b.at), start, align, fill);
  return { order, gaps: dense ? 'none' : 'kept' };
}

/** True when every stretch starts where the one before ends, but for its alignment. */
async function isDense(
  source: ByteSource,
  stretches: readonly Stretch[],
  start: number,
  align: number,
  fill: number,
): Promise<boolean> {
  let end = start;
  const paddings: Stretch[] = [];
  for (const stretch of stretches) {
    if (stretch.at > end) {
      if (stretch.at !== Math.ceil(end / align) * align) return false;
      if (paddings.length < MOST_PADDINGS) paddings.push({ at: end, end: stretch.at });
    }
    end = Math.max(end, stretch.end);
  }
  for (const { at, end: to } of paddings) if (!(await isFill(source, at, to - at, fill))) return false;
  return true;
}

/** Where regions of a volume lie, with the fields of theirs that lie apart. */
function regionStretches(archive: OpenedArchive, volume: number): Stretch[] {
  const stretches: Stretch[] = [];
  for (const found of archive.regions.values()) {
    if (found.volume !== volume) continue;
    stretches.push({ at: found.at, end: found.at + found.length });
    if (found.unlocked) continue;
    for (const table of found.tables.all())
      for (const { at, index } of table.shape.fields) {
        if (at === undefined) continue;
        for (let row = 0; row < table.length; row++) {
          if (table.columns[index]!.kept(row) === undefined) continue;
          const start = table.markedStart(index, row);
          stretches.push({ at: start, end: start + table.markedLength(index, row) });
        }
      }
  }
  return stretches;
}
