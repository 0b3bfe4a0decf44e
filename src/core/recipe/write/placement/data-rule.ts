/** Where the bytes of entries may lie: as the recipe says, and where it does not, as they were found to lie. */
import type { ByteSource } from '../../../bytes';
import type { Region } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { isFill } from '../../read/coverage';
import { isInRow, rowDataPath } from '../../read/in-rows';

export interface DataRule {
  /** `rows`: entries lie in the order of their rows. */
  readonly order: 'rows' | 'any';
  /** `none`: nothing lies between entries but what their alignment needs. */
  readonly gaps: 'none' | 'kept';
  /** Each entry starts at a multiple of this. */
  readonly align: number;
  readonly fill: number;
  /** Behind the last entry is fill up to a multiple of this; undefined where the recipe does not say. */
  readonly tail: number | undefined;
  /** Entries of no bytes lie in the order of the rows as well. */
  readonly emptyInOrder: boolean;
  /** Fields that lie elsewhere lie directly behind one another, but for their alignment. */
  readonly denseParts: boolean;
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
  const tail = region?.tail;
  const stated = { order: region?.order, gaps: region?.gaps };
  const order = stated.order ?? (chained ? 'rows' : undefined);
  if (archive === undefined || volume === undefined)
    return {
      order: order ?? 'rows',
      gaps: stated.gaps ?? 'none',
      align,
      fill,
      tail,
      emptyInOrder: true,
      denseParts: true,
    };
  const found = await foundRule(region, archive, volume, align, fill);
  return {
    order: order ?? found.order,
    gaps: stated.gaps ?? (chained ? 'kept' : found.gaps),
    align,
    fill,
    tail,
    emptyInOrder: found.emptyInOrder,
    denseParts: areDense(partsOf(archive, volume)),
  };
}

interface Stretch {
  readonly at: number;
  readonly end: number;
}

/** A field that lies elsewhere, with its alignment. */
interface Part extends Stretch {
  readonly align: number;
}

/** True for two parts or more of which each begins where the one before ends. */
function areDense(parts: readonly Part[]): boolean {
  const sorted = parts.filter(({ at, end }) => end > at).sort((a, b) => a.at - b.at);
  return (
    sorted.length > 1 &&
    sorted.every(({ at, align }, i) => i === 0 || at === Math.ceil(sorted[i - 1]!.end / align) * align)
  );
}

async function foundRule(
  region: Region | undefined,
  archive: OpenedArchive,
  volume: number,
  align: number,
  fill: number,
): Promise<Pick<DataRule, 'order' | 'gaps' | 'emptyInOrder'>> {
  const loose = { order: 'any', gaps: 'kept', emptyInOrder: false } as const;
  const { entries, recipe } = archive;
  if (archive.dataSpace !== undefined || recipe.entries.data !== undefined) return loose;
  const mixed = rowDataPath(recipe) !== undefined;
  const data: Stretch[] = [];
  const starts = new Set<number>();
  let ascending = true;
  let emptyInOrder = true;
  let last = -1;
  for (let i = 0; i < entries.count; i++) {
    const stored = entries.stored(i);
    if (entries.volume(i) !== volume || entries.isDeleted(i) || Number.isNaN(stored)) continue;
    if (mixed && isInRow(archive, i)) continue;
    const at = entries.at(i);
    emptyInOrder &&= at >= last;
    if (stored === 0) {
      last = Math.max(last, at - 1);
      continue;
    }
    // Bytes shared with an entry before lie where that one's are.
    if (at > last) last = at;
    else ascending &&= starts.has(at);
    starts.add(at);
    data.push({ at, end: at + stored });
  }
  if (data.length === 0) return { order: 'rows', gaps: 'none', emptyInOrder };
  data.sort((a, b) => a.at - b.at || a.end - b.end);
  const first = data[0]!.at;
  const end = data.reduce((most, one) => Math.max(most, one.end), 0);
  const between = regionStretches(archive, volume).filter((one) => one.at < end && one.end > first);
  const start = region === undefined ? first : archive.facts.start(region.index);
  const order = ascending && between.length === 0 ? 'rows' : 'any';
  const { source } = archive.volumes[volume]!;
  const dense = await isDense(
    source,
    [...data, ...between].sort((a, b) => a.at - b.at),
    start,
    align,
    fill,
  );
  return { order, gaps: dense ? 'none' : 'kept', emptyInOrder };
}

/** The same for entries that are packed together, whose places count in the plain bytes of their region. */
export function spaceRule({ entries }: OpenedArchive, { align }: Region): Pick<DataRule, 'order' | 'gaps'> {
  const data: Stretch[] = [];
  for (let i = 0; i < entries.count; i++)
    if (!entries.isDeleted(i) && entries.stored(i) > 0)
      data.push({ at: entries.at(i), end: entries.at(i) + entries.stored(i) });
  const starts = new Set<number>();
  let last = -1;
  let ascending = true;
  for (const { at } of data) {
    if (at > last) last = at;
    else ascending &&= starts.has(at);
    starts.add(at);
  }
  let end = 0;
  let dense = true;
  for (const one of [...data].sort((a, b) => a.at - b.at || a.end - b.end)) {
    dense &&= one.at <= end || one.at === Math.ceil(end / align) * align;
    end = Math.max(end, one.end);
  }
  return { order: ascending ? 'rows' : 'any', gaps: dense ? 'none' : 'kept' };
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

/** Where regions of a volume lie, with the fields of theirs that lie elsewhere. */
function regionStretches(archive: OpenedArchive, volume: number): Stretch[] {
  const regions = [...archive.regions.values()].filter((found) => found.volume === volume);
  return [...regions.map(({ at, length }) => ({ at, end: at + length })), ...partsOf(archive, volume)];
}

/** Fields of a volume's regions that lie elsewhere in it. */
export function partsOf(archive: OpenedArchive, volume: number): Part[] {
  const parts: Part[] = [];
  for (const found of archive.regions.values()) {
    if (found.volume !== volume || found.unlocked) continue;
    for (const table of found.tables.all())
      for (const { at, index, align } of table.shape.fields) {
        if (at === undefined) continue;
        for (let row = 0; row < table.length; row++) {
          if (table.columns[index]!.kept(row) === undefined) continue;
          const start = table.markedStart(index, row);
          parts.push({ at: start, end: start + table.markedLength(index, row), align });
        }
      }
  }
  return parts;
}
