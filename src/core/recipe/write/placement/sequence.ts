/** What a volume is made of, in the order in which it will lie there. */
import type { ByteSource } from '../../../bytes';
import type { Recipe, Region } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { isFill } from '../../read/coverage';
import { isInRow, rowDataPath } from '../../read/in-rows';
import { orderOf } from '../../read/per-volume';
import type { Layout } from '../../model';
import type { DraftEntries } from '../model/draft';
import type { EntryOrder } from '../model/order';
import { partsOf, type DataRule } from './data-rule';

/** A part of a volume that is placed as one. `from` is where it was found, if it was. */
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
  /** `pulled`: it moves to the start of the file, which identifies its format. */
  | { readonly kind: 'entry'; readonly out: number; readonly from: number | undefined; readonly pulled?: boolean }
  /** Bytes that nothing explains. They stay. */
  | { readonly kind: 'gap'; readonly from: number; readonly length: number }
  /** Fill at the end of the file or of the entries, up to a multiple of `step`. */
  | { readonly kind: 'tail'; readonly from: number; readonly step: number; readonly fill: number };

export type RegionBlock = Block & { kind: 'region' };

export interface VolumeLayout {
  readonly recipe: Recipe;
  readonly archive: OpenedArchive | undefined;
  readonly entries: DraftEntries;
  readonly order: EntryOrder;
  readonly layout: Layout;
  /** The volume of the old archive, or undefined for a new one. */
  readonly volume: number | undefined;
  /** The region its entries lie in; undefined when it holds none. */
  readonly dataRegion: Region | undefined;
  readonly rule: DataRule;
  /** Entries of the new file that lie in it, apart from those inside their rows. */
  readonly outs: readonly number[];
  /** Entries lie by themselves instead of in runs: their bytes or their places follow from others. */
  readonly apart: boolean;
}

/** The blocks of a volume, in the order they will have. */
export async function planBlocks(volume: VolumeLayout, regions: readonly RegionBlock[]): Promise<Block[]> {
  const { archive, layout } = volume;
  if (archive === undefined || volume.volume === undefined || layout === 'afresh' || layout === 'patch')
    return withTail(volume, afreshBlocks(volume, regions));
  return withTail(volume, await keptBlocks(volume, archive, regions));
}

/** With the fill behind the last entry that the recipe asks for, instead of what was found there. */
function withTail(volume: VolumeLayout, blocks: readonly Block[]): Block[] {
  const { tail: step, fill } = volume.rule;
  const others = blocks.filter(({ kind }) => step === undefined || kind !== 'tail');
  if (step === undefined) return others;
  const last = others.findLastIndex((block) => firstOut(block) !== undefined);
  others.splice(last < 0 ? dataPlace(volume, others) : last + 1, 0, { kind: 'tail', from: 0, step, fill });
  return others;
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
  const byRows = volume.rule.order === 'rows';
  const { items, homeless } = foundItems(volume, archive, regions);
  const blocks: Block[] = [];
  const { source } = archive.volumes[volume.volume!]!;
  let lastEntryBlock = -1;
  /** How many blocks that are no data come before the first data. */
  let ahead: number | undefined;
  let run: { from: number; length: number; entries: number[] } | undefined;
  const closeRun = () => {
    if (run === undefined) return;
    blocks.push({ kind: 'run', ...run });
    lastEntryBlock = blocks.length - 1;
    run = undefined;
  };
  const keepGap = async (from: number, to: number) => {
    if (to > from && !(await isFill(source, from, to - from, volume.rule.fill)))
      blocks.push({ kind: 'gap', from, length: to - from });
  };
  let end = 0;
  for (const item of items) {
    if (item.kind !== 'region') ahead ??= blocks.length;
    if (item.kind === 'stay' && run !== undefined && !volume.apart) {
      run.length = Math.max(run.length, item.end - run.from);
      for (const out of item.stays) run.entries.push(out);
    } else {
      // A gap behind entries that stay goes with them; any other is looked into, for what it led to may have gone.
      const vanished = item.kind === 'slot' && item.out === undefined;
      const joins = run !== undefined && !volume.apart && !vanished && volume.rule.gaps === 'kept';
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
  closeRun();
  const added: Block[] = homeless.map((out) => ({ kind: 'entry', out, from: undefined }));
  const place = lastEntryBlock >= 0 ? lastEntryBlock + 1 : dataPlace(volume, blocks);
  blocks.splice(place, 0, ...added);
  if (items[0]?.kind === 'slot' && items[0].at === 0 && items[0].out === undefined) pullFirst(blocks);
  ahead ??= blocks.slice(0, place).filter((block) => firstOut(block) === undefined).length;
  const ordered = byRows ? inRowOrder(volume, blocks, ahead) : blocks;
  putNewRegions(volume, ordered, regions);
  if (end < source.size) ordered.push(await tailBlock(volume, source, end));
  return ordered;
}

/** Regions and parts that were not found: a part behind the one before it, a region before those found from the end. */
function putNewRegions({ recipe }: VolumeLayout, blocks: Block[], regions: readonly RegionBlock[]): void {
  for (const block of regions) {
    if (block.from !== undefined) continue;
    const near = blocks.findLastIndex(
      (one) => one.kind === 'region' && one.region === block.region && one.part < block.part && one.part > 0,
    );
    const next = blocks.findIndex(
      (one) => one.kind === 'region' && one.region === block.region && one.part > block.part,
    );
    let place = near >= 0 ? near + 1 : block.part > 0 && next >= 0 ? next : blocks.length;
    if (place === blocks.length) while (place > 0 && isFromEnd(recipe, blocks[place - 1]!)) place--;
    blocks.splice(place, 0, block);
  }
}

/** True for a region that a reader looks for from the end of the file. */
function isFromEnd({ regions }: Recipe, block: Block): boolean {
  if (block.kind !== 'region' || block.part > 0) return false;
  const { at, search } = regions[block.region]!;
  return at?.uses.end === true || search?.backwards === true;
}

/**
 * The data of entries in the order of their rows, all where the first of them was; all else as it is.
 *
 * @param ahead how many of the other blocks come before the data
 */
function inRowOrder(volume: VolumeLayout, blocks: readonly Block[], ahead: number): Block[] {
  const { order, rule, apart } = volume;
  const position = (block: Block) => order.positionOf(firstOut(block)!);
  const split = blocks.flatMap((block) => (block.kind === 'run' ? splitRun(volume, block) : [block]));
  const isEmpty = (block: Block): block is Block & { kind: 'run' } =>
    block.kind === 'run' && block.length === 0 && !rule.emptyInOrder;
  const data = split
    .filter((block) => firstOut(block) !== undefined && !isEmpty(block))
    .sort((a, b) => position(a) - position(b));
  const joined: Block[] = [];
  for (const block of data) {
    const before = joined.at(-1);
    // Entries that lay behind one another and still do are copied as one.
    const adjoins =
      before?.kind === 'run' &&
      block.kind === 'run' &&
      !apart &&
      block.from === upTo(before.from + before.length, rule.gaps === 'none' ? rule.align : 1) &&
      lastPosition(order, before) + 1 === position(block);
    if (adjoins)
      joined[joined.length - 1] = {
        ...before,
        length: block.from + block.length - before.from,
        entries: [...before.entries, ...block.entries],
      };
    else joined.push(block);
  }
  const others = blocks.filter((block) => firstOut(block) === undefined);
  return [...others.slice(0, ahead), ...withEmpty(joined, split.filter(isEmpty)), ...others.slice(ahead)];
}

/** Entries of no bytes, which may lie anywhere, go with the bytes at whose edge they were found. */
function withEmpty(data: readonly Block[], empty: readonly (Block & { kind: 'run' })[]): Block[] {
  if (empty.length === 0) return [...data];
  const found = data
    .flatMap((block, i) => (fromOf(block) === undefined ? [] : [{ i, from: fromOf(block)! }]))
    .sort((a, b) => a.from - b.from);
  const result: Block[] = [...data];
  const ahead = new Map<number, Block[]>();
  for (const block of empty) {
    // The last block that starts at or before it, or the first behind it.
    const near = countUpTo(found, block.from) - 1;
    const i = found[near]?.i;
    const home = i === undefined ? undefined : result[i]!;
    if (home?.kind === 'run' && block.from <= home.from + home.length)
      result[i!] = { ...home, entries: [...home.entries, ...block.entries] };
    else {
      const next = found[near + 1]?.i ?? data.length;
      ahead.set(next, [...(ahead.get(next) ?? []), block]);
    }
  }
  return [...result.flatMap((block, i) => [...(ahead.get(i) ?? []), block]), ...(ahead.get(data.length) ?? [])];
}

const fromOf = (block: Block) => (block.kind === 'run' || block.kind === 'entry' ? block.from : undefined);

/** How many of them start at or before an offset. */
function countUpTo(found: readonly { readonly from: number }[], offset: number): number {
  let low = 0;
  let high = found.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (found[middle]!.from <= offset) low = middle + 1;
    else high = middle;
  }
  return low;
}

function lastPosition(order: EntryOrder, run: Block & { kind: 'run' }): number {
  return run.entries.reduce((last, out) => Math.max(last, order.positionOf(out)), -1);
}

/** A run in parts that may be put into another order: entries that share bytes stay together. */
function splitRun({ archive, entries, order, rule }: VolumeLayout, run: Block & { kind: 'run' }): Block[] {
  const table = archive!.entries;
  const parts: { from: number; end: number; entries: number[] }[] = [];
  const place = (out: number) => {
    const base = entries.base(out)!;
    return { from: table.at(base), end: table.at(base) + table.stored(base) };
  };
  const positions = run.entries.map((out) => order.positionOf(out));
  const ascending = positions.every((position, i) => i === 0 || position === positions[i - 1]! + 1);
  if (ascending) return [run];
  for (const out of run.entries) {
    const { from, end } = place(out);
    const last = parts.at(-1);
    if (last !== undefined && from < last.end) {
      last.end = Math.max(last.end, end);
      last.entries.push(out);
    } else parts.push({ from, end, entries: [out] });
  }
  return parts.map((part, i): Block => {
    // With gaps, what lies behind an entry goes with it.
    const next = parts[i + 1]?.from ?? run.from + run.length;
    const length = (rule.gaps === 'kept' ? Math.max(part.end, next) : part.end) - part.from;
    const ordered = [...part.entries].sort((a, b) => order.positionOf(a) - order.positionOf(b));
    return { kind: 'run', from: part.from, length, entries: ordered };
  });
}

/** Powers of two to which files are filled up. */
const TAIL_STEPS = [65536, 32768, 16384, 8192, 4096, 2048, 1024, 512, 256, 128, 64, 32, 16, 8, 4, 2];

/**
 * What lies behind everything: fill up to the multiple of a power of two stays that, and anything else stays as it is.
 */
async function tailBlock({ rule }: VolumeLayout, source: ByteSource, from: number): Promise<Block> {
  const length = source.size - from;
  const kept: Block = { kind: 'gap', from, length };
  const step = [rule.align, ...TAIL_STEPS].find((one) => one > 1 && upTo(from, one) === source.size);
  if (step === undefined) return kept;
  for (const fill of new Set([rule.fill, 0]))
    if (await isFill(source, from, length, fill)) return { kind: 'tail', from, step, fill };
  return kept;
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
  { entries, layout, outs, volume, apart, rule }: VolumeLayout,
  archive: OpenedArchive,
  regions: readonly RegionBlock[],
): { items: Item[]; homeless: number[] } {
  const table = archive.entries;
  const outOf = new Map<number, number>();
  const homeless: number[] = [];
  const mixed = rowDataPath(archive.recipe) !== undefined;
  for (const out of outs) {
    const base = entries.base(out);
    const isHere = base !== undefined && table.volume(base) === volume && !table.isDeleted(base);
    if (!isHere || (mixed && isInRow(archive, base))) homeless.push(out);
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
  // What lay elsewhere for a row that is gone is no longer anything.
  const parts = new Set(regions.map(({ from }) => from));
  for (const { at, end } of partsOf(archive, volume!))
    if (!parts.has(at)) items.push({ kind: 'slot', at, end, stays: [], order: -1 });
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
    // What begins the file stays there: its first bytes identify the format.
    const outgrown = layout === 'append' && rule.order === 'any' && slot.at > 0 && length > slot.end - slot.at;
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
function byOffset(archive: OpenedArchive, volume: number): Iterable<number> {
  const { entries, dataSpace, recipe } = archive;
  if (dataSpace !== undefined || recipe.entries.data !== undefined) return [];
  const mixed = rowDataPath(recipe) !== undefined;
  const order: number[] = [];
  let sorted = true;
  for (let i = 0; i < entries.count; i++) {
    if (entries.volume(i) !== volume || entries.isDeleted(i) || Number.isNaN(entries.stored(i))) continue;
    if (mixed && isInRow(archive, i)) continue;
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

/** Regions in the order of the recipe; entries in that of their rows, or where that is free, as they were found. */
function afreshBlocks(volume: VolumeLayout, regions: readonly RegionBlock[]): Block[] {
  const { archive, entries, order, outs, recipe, dataRegion, apart, rule } = volume;
  const data: Block[] = [];
  const staying: number[] = [];
  for (const out of outs) {
    if (entries.fresh(out) === undefined) staying.push(out);
    else data.push({ kind: 'entry', out, from: undefined });
  }
  const table = archive?.entries;
  const at = (out: number) => table!.at(entries.base(out)!);
  let run: { kind: 'run'; from: number; length: number; entries: number[] } | undefined;
  for (const out of staying.filter((one) => !table!.isDeleted(entries.base(one)!)).sort((a, b) => at(a) - at(b))) {
    const end = at(out) + table!.stored(entries.base(out)!);
    // Only bytes that are truly shared stay together; one of no bytes has a place of its own where the rows have an order.
    const besideEmpty =
      run !== undefined && at(out) === run.from && run.length === 0 && !(rule.order === 'rows' && rule.emptyInOrder);
    const joined = run !== undefined && !apart && (at(out) < run.from + run.length || besideEmpty);
    if (joined) {
      run!.length = Math.max(run!.length, end - run!.from);
      run!.entries.push(out);
    } else data.push((run = { kind: 'run', from: at(out), length: end - at(out), entries: [out] }));
  }
  const rank = (block: Block): number => {
    const positions =
      block.kind === 'run' ? block.entries.map((out) => order.positionOf(out)) : [order.positionOf(firstOut(block)!)];
    return Math.min(...positions);
  };
  const foundAt = (block: Block): number => {
    const base = entries.base(firstOut(block)!);
    return base === undefined || table === undefined || table.isDeleted(base) ? Infinity : table.at(base);
  };
  const inFoundOrder = (a: Block, b: Block) => {
    const [one, other] = [foundAt(a), foundAt(b)];
    return one === other ? rank(a) - rank(b) : one < other ? -1 : 1;
  };
  data.sort(rule.order === 'any' ? inFoundOrder : (a, b) => rank(a) - rank(b));
  const blocks: Block[] = [];
  for (const region of [...recipe.regions].sort((a, b) => orderOf(a) - orderOf(b) || a.index - b.index)) {
    if (region === dataRegion) blocks.push(...data);
    else for (const block of regions) if (block.region === region.index) blocks.push({ ...block, from: undefined });
  }
  return blocks;
}

function firstOut(block: Block): number | undefined {
  return block.kind === 'entry' ? block.out : block.kind === 'run' ? block.entries[0] : undefined;
}

function upTo(offset: number, step: number): number {
  return Math.ceil(offset / step) * step;
}
