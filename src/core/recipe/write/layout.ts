/** Where the parts of a volume go: found order or recipe order, with as little moved as the rule allows. */
import type { ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import type { Recipe, Region } from '../model';
import type { OpenedArchive } from '../read/archive';
import { orderOf } from '../read/per-volume';
import { isFill } from '../read/coverage';
import type { DraftEntries } from './draft';
import type { Layout } from './edits';

/** A part of a volume that is laid out as one. `from` is where it was found, if it was. */
export type Block =
  /** A region, or the n-th of its parts that lie apart. */
  | {
      readonly kind: 'region';
      readonly region: number;
      readonly part: number;
      readonly from: number | undefined;
      readonly foundLength: number;
      readonly align: number;
    }
  /** Entries that stay, with what lies between them, copied as they are. */
  | {
      readonly kind: 'run';
      readonly from: number;
      readonly length: number;
      readonly entries: readonly number[];
      readonly pulled?: boolean;
    }
  /** `pulled`: it moves to the start of the file, where its format is told by. */
  | { readonly kind: 'entry'; readonly out: number; readonly from: number | undefined; readonly pulled?: boolean }
  /** Bytes that nothing explains. They stay. */
  | { readonly kind: 'gap'; readonly from: number; readonly length: number };

export interface Placed {
  readonly block: Block;
  readonly at: number;
  readonly length: number;
}

export type RegionBlock = Block & { kind: 'region' };

export interface VolumeLayout {
  readonly recipe: Recipe;
  readonly archive: OpenedArchive | undefined;
  readonly entries: DraftEntries;
  readonly layout: Layout;
  /** The volume of the old archive, or undefined for a new one. */
  readonly volume: number | undefined;
  /** The region its entries lie in; undefined when it holds none. */
  readonly dataRegion: Region | undefined;
  /** Entries of the new file that lie in it, apart from those inside their rows. */
  readonly outs: readonly number[];
  /** Entries stay by themselves instead of in runs: their bytes follow their place. */
  readonly apart: boolean;
  /** Where an entry lies when the one before it tells, for those before it that are placed; undefined elsewhere. */
  readonly chainedAt: ((out: number) => number | undefined) | undefined;
  readonly fill: number;
  /** Where a reader will look for a region, when that does not follow where it is put. */
  wantedAt(region: number): number | undefined;
}

/** The blocks of a volume, in the order they will have. */
export async function planBlocks(volume: VolumeLayout, regions: readonly RegionBlock[]): Promise<Block[]> {
  const { archive, layout } = volume;
  if (archive === undefined || volume.volume === undefined || layout === 'afresh' || layout === 'patch')
    return afreshBlocks(volume, regions);
  return keptBlocks(volume, archive, regions);
}

interface Item {
  readonly kind: 'region' | 'stay' | 'slot';
  readonly at: number;
  end: number;
  readonly region?: RegionBlock;
  /** Output index of an entry whose bytes change; none for a removed one. */
  readonly out?: number;
  readonly stays: number[];
  /** Its place among the entries, for those of no bytes that start at the same offset. */
  readonly order: number;
}

async function keptBlocks(
  volume: VolumeLayout,
  archive: OpenedArchive,
  regions: readonly RegionBlock[],
): Promise<Block[]> {
  const { items, homeless } = foundItems(volume, archive, regions);
  const blocks: Block[] = [];
  const { source } = archive.volumes[volume.volume!]!;
  let lastEntryBlock = -1;
  let run: { from: number; length: number; entries: number[] } | undefined;
  const closeRun = () => {
    if (run === undefined) return;
    blocks.push({ kind: 'run', ...run });
    lastEntryBlock = blocks.length - 1;
    run = undefined;
  };
  const keepGap = async (from: number, to: number) => {
    if (to > from && !(await isFill(source, from, to - from, volume.fill)))
      blocks.push({ kind: 'gap', from, length: to - from });
  };
  let end = 0;
  for (const item of items) {
    if (item.kind === 'stay' && run !== undefined && !volume.apart) {
      run.length = Math.max(run.length, item.end - run.from);
      for (const out of item.stays) run.entries.push(out);
    } else {
      // A gap behind entries that stay goes with them; any other is looked into, for what it led to may have gone.
      const vanished = item.kind === 'slot' && item.out === undefined;
      const joins = run !== undefined && !volume.apart && !vanished;
      if (joins) run!.length = Math.max(run!.length, item.at - run!.from);
      closeRun();
      if (!joins) await keepGap(end, item.at);
      if (item.kind === 'stay') run = { from: item.at, length: item.end - item.at, entries: item.stays };
      else if (item.kind === 'region') blocks.push(item.region!);
      else if (item.out !== undefined) {
        blocks.push({ kind: 'entry', out: item.out, from: item.at });
        lastEntryBlock = blocks.length - 1;
      }
    }
    end = Math.max(end, item.end);
  }
  if (run !== undefined && !volume.apart) run.length = Math.max(run.length, source.size - run.from);
  closeRun();
  // What stands behind everything stays, be it only fill: some files end at a multiple of something.
  const tail = Math.max(end, ...blocks.map((block) => (block.kind === 'run' ? block.from + block.length : 0)));
  if (tail < source.size) blocks.push({ kind: 'gap', from: tail, length: source.size - tail });
  if (items[0]?.kind === 'slot' && items[0].at === 0 && items[0].out === undefined) pullFirst(blocks);
  const added: Block[] = homeless.map((out) => ({ kind: 'entry', out, from: undefined }));
  const place = lastEntryBlock >= 0 ? lastEntryBlock + 1 : dataPlace(volume, blocks);
  blocks.splice(place, 0, ...added);
  for (const region of regions) if (region.from === undefined) blocks.push(region);
  return blocks;
}

/** What began the file is gone: the next entry begins it, so that no hole does. */
function pullFirst(blocks: Block[]): void {
  const first = blocks[0];
  if (first?.kind === 'run' || first?.kind === 'entry') blocks[0] = { ...first, pulled: true };
}

/** With no entry left in the volume, new ones go where the recipe has its data region. */
function dataPlace({ dataRegion, recipe }: VolumeLayout, blocks: readonly Block[]): number {
  const before = dataRegion?.index ?? 0;
  return blocks.reduce(
    (place, block, i) => (block.kind === 'region' && orderOf(recipe.regions[block.region]!) < before ? i + 1 : place),
    0,
  );
}

/** Everything that was found, by offset; and the entries that have no spot to return to. */
function foundItems(
  { entries, layout, outs, volume, apart, chainedAt }: VolumeLayout,
  archive: OpenedArchive,
  regions: readonly RegionBlock[],
): { items: Item[]; homeless: number[] } {
  const table = archive.entries;
  const outOf = new Map<number, number>();
  const homeless: number[] = [];
  for (const out of outs) {
    const base = entries.base(out);
    if (base === undefined || table.volume(base) !== volume || table.isDeleted(base)) homeless.push(out);
    else outOf.set(base, out);
  }
  const items: Item[] = [];
  for (const region of regions) {
    if (region.from !== undefined)
      items.push({
        kind: 'region',
        at: region.from,
        end: region.from + region.foundLength,
        region,
        stays: [],
        order: -1,
      });
  }
  const stays: Item[] = [];
  const slots: Item[] = [];
  let order = 0;
  let slotBetween = false;
  for (const entry of byOffset(archive, volume!)) {
    order++;
    const at = table.at(entry);
    const end = at + table.stored(entry);
    const out = outOf.get(entry);
    if (out !== undefined && entries.fresh(out) === undefined) {
      const last = stays.at(-1);
      if (last !== undefined && !apart && (at < last.end || (at === last.end && !slotBetween))) {
        last.end = Math.max(last.end, end);
        last.stays.push(out);
      } else stays.push({ kind: 'stay', at, end, stays: [out], order });
      slotBetween = false;
    } else {
      slots.push({ kind: 'slot', at, end, stays: [], order, ...(out === undefined ? {} : { out }) });
      slotBetween = true;
    }
  }
  let taken = -1;
  for (const slot of slots) {
    const shared = overlaps(stays, slot.at, slot.end) || slot.at < taken;
    const length = slot.out === undefined ? 0 : entries.fresh(slot.out)!.stored.size;
    // What begins the file stays there: by its first bytes the format is told.
    const outgrown = layout === 'append' && chainedAt === undefined && slot.at > 0 && length > slot.end - slot.at;
    if (slot.out !== undefined && (shared || outgrown)) {
      homeless.push(slot.out);
      if (!shared) items.push({ kind: 'slot', at: slot.at, end: slot.end, stays: [], order: slot.order });
    } else if (!shared) items.push(slot);
    if (!shared) taken = slot.end;
  }
  for (const stay of stays) items.push(stay);
  items.sort((a, b) => a.at - b.at || a.end - b.end || a.order - b.order);
  homeless.sort((a, b) => a - b);
  return { items, homeless };
}

/** Entries of a volume by the offset of their bytes; most archives have them in that order already. */
function byOffset({ entries, dataSpace, recipe }: OpenedArchive, volume: number): Iterable<number> {
  if (dataSpace !== undefined || recipe.entries.data !== undefined) return [];
  const order: number[] = [];
  let sorted = true;
  for (let i = 0; i < entries.count; i++) {
    if (entries.volume(i) !== volume || entries.isDeleted(i) || Number.isNaN(entries.stored(i))) continue;
    if (order.length > 0 && entries.at(order.at(-1)!) > entries.at(i)) sorted = false;
    order.push(i);
  }
  return sorted ? order : order.sort((a, b) => entries.at(a) - entries.at(b) || entries.stored(a) - entries.stored(b));
}

/** `stays` are ascending. */
function overlaps(stays: readonly Item[], at: number, end: number): boolean {
  let low = 0;
  let high = stays.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (stays[middle]!.end <= at) low = middle + 1;
    else high = middle;
  }
  return low < stays.length && stays[low]!.at < end;
}

function afreshBlocks(volume: VolumeLayout, regions: readonly RegionBlock[]): Block[] {
  const { archive, entries, outs, recipe, dataRegion, apart } = volume;
  const data: Block[] = [];
  const staying: number[] = [];
  for (const out of outs) {
    if (entries.fresh(out) === undefined) staying.push(out);
    else data.push({ kind: 'entry', out, from: undefined });
  }
  if (archive !== undefined) {
    const table = archive.entries;
    const at = (out: number) => table.at(entries.base(out)!);
    let run: { kind: 'run'; from: number; length: number; entries: number[] } | undefined;
    for (const out of staying.filter((one) => !table.isDeleted(entries.base(one)!)).sort((a, b) => at(a) - at(b))) {
      const end = at(out) + table.stored(entries.base(out)!);
      // Only bytes that are truly shared stay together.
      const joined =
        run !== undefined && !apart && (at(out) < run.from + run.length || (at(out) === run.from && run.length === 0));
      if (joined) {
        run!.length = Math.max(run!.length, end - run!.from);
        run!.entries.push(out);
      } else data.push((run = { kind: 'run', from: at(out), length: end - at(out), entries: [out] }));
    }
    data.sort((a, b) => firstOut(a) - firstOut(b));
  }
  const blocks: Block[] = [];
  for (const region of [...recipe.regions].sort((a, b) => orderOf(a) - orderOf(b) || a.index - b.index)) {
    if (region === dataRegion) blocks.push(...data);
    else for (const block of regions) if (block.region === region.index) blocks.push({ ...block, from: undefined });
  }
  return blocks;
}

function firstOut(block: Block): number {
  return block.kind === 'entry' ? block.out : block.kind === 'run' ? block.entries[0]! : 0;
}

/**
 * Gives every block its offset. A block that was found stays where it was when there is room; otherwise it moves on,
 * keeping its alignment.
 *
 * @throws FormatError `layout-impossible` when a region that cannot move has no room
 */
export function placeBlocks(
  { recipe, dataRegion, layout, wantedAt, chainedAt }: VolumeLayout,
  blocks: readonly Block[],
  lengthOf: (block: Block) => number,
  settle: (block: Block, at: number) => void,
): Placed[] {
  const align = dataRegion?.align ?? 1;
  const packed = layout === 'afresh' || layout === 'patch';
  let end = 0;
  return blocks.map((block, i) => {
    const length = lengthOf(block);
    const at = place(block, blocks[i - 1]);
    // Those behind it may ask where it lies.
    if (chainedAt !== undefined) settle(block, at);
    end = Math.max(end, at + length);
    return { block, at, length };
  });

  function place(block: Block, before: Block | undefined): number {
    if (block.kind === 'region') {
      const region = recipe.regions[block.region]!;
      if (region.fixedAt === undefined || block.part > 0) {
        const wanted = block.part > 0 ? undefined : wantedAt(block.region);
        if (wanted !== undefined && wanted >= end) return wanted;
        // What stood directly behind a region does so when that has become shorter.
        const adjoins =
          before?.kind === 'region' && before.from !== undefined && block.from === before.from + before.foundLength;
        return found(wanted === undefined && !adjoins ? block.from : undefined, block.align) ?? up(end, block.align);
      }
      if (region.fixedAt >= end) return region.fixedAt;
      throw new FormatError({
        code: 'layout-impossible',
        recipe: recipe.id,
        line: region.line,
        region: region.name,
        what: 'a region that has a fixed place has no room there',
        expected: `the region before it to end at 0x${region.fixedAt.toString(16)}`,
        found: `0x${end.toString(16)}`,
      });
    }
    const out = block.kind === 'entry' ? block.out : block.kind === 'run' ? block.entries[0] : undefined;
    const told = out === undefined ? undefined : chainedAt?.(out);
    if (told !== undefined) return told;
    const data = dataRegion === undefined ? 0 : (dataRegion.fixedAt ?? wantedAt(dataRegion.index) ?? 0);
    const start = Math.max(end, data);
    if (packed || ((block.kind === 'run' || block.kind === 'entry') && block.pulled === true)) return up(start, align);
    return found(block.from, align, start) ?? up(start, align);
  }

  /** The old offset while there is room, else the next one that is aligned as the old one was. */
  function found(from: number | undefined, step: number, start = end): number | undefined {
    if (from === undefined || packed) return undefined;
    return from >= start ? from : start + ((((from - start) % step) + step) % step);
  }
}

function up(offset: number, align: number): number {
  return Math.ceil(offset / align) * align;
}

/** The source of a block's bytes, when they come from the file that was found. */
export function blockSource(
  block: Block,
  source: ByteSource | undefined,
): { readonly source: ByteSource; readonly from: number } | undefined {
  return source !== undefined && (block.kind === 'run' || block.kind === 'gap')
    ? { source, from: block.from }
    : undefined;
}
