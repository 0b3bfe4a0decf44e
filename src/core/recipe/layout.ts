/** Where the parts of a file go: found order or recipe order, with as little moved as the rule allows. */
import type { ByteSource } from '../bytes';
import { FormatError } from '../faults';
import type { Archive } from './archive';
import { isFill } from './coverage';
import type { DraftEntries } from './draft';
import type { Layout } from './edits';
import type { Recipe } from './model';

/** A part of the file that is laid out as one. `from` is where it was found, if it was. */
export type Block =
  | { readonly kind: 'region'; readonly region: number; readonly from: number | undefined }
  /** Entries that stay, with what lies between them, copied as they are. */
  | { readonly kind: 'run'; readonly from: number; readonly length: number; readonly entries: readonly number[] }
  | { readonly kind: 'entry'; readonly out: number; readonly from: number | undefined }
  /** Bytes that nothing explains. They stay. */
  | { readonly kind: 'gap'; readonly from: number; readonly length: number };

export interface Placed {
  readonly block: Block;
  readonly at: number;
  readonly length: number;
}

/** The blocks of a rebuilt file, in the order they will have. */
export async function planBlocks(
  recipe: Recipe,
  archive: Archive | undefined,
  entries: DraftEntries,
  layout: Layout,
): Promise<Block[]> {
  if (archive === undefined || layout === 'afresh' || layout === 'patch') return afreshBlocks(recipe, archive, entries);
  return keptBlocks(recipe, archive, entries, layout);
}

interface Item {
  readonly kind: 'region' | 'stay' | 'slot';
  readonly at: number;
  end: number;
  readonly region?: number;
  /** Output index of an entry whose bytes change; none for a removed one. */
  readonly out?: number;
  readonly stays: number[];
}

async function keptBlocks(recipe: Recipe, archive: Archive, entries: DraftEntries, layout: Layout): Promise<Block[]> {
  const { items, homeless } = foundItems(archive, entries, layout);
  const blocks: Block[] = [];
  const { source } = archive;
  let lastEntryBlock = -1;
  let run: { from: number; length: number; entries: number[] } | undefined;
  const closeRun = () => {
    if (run === undefined) return;
    blocks.push({ kind: 'run', ...run });
    lastEntryBlock = blocks.length - 1;
    run = undefined;
  };
  const keepGap = async (from: number, to: number) => {
    if (to > from && !(await isFill(source, from, to - from, recipe.dataRegion.fill))) {
      blocks.push({ kind: 'gap', from, length: to - from });
    }
  };
  let end = 0;
  for (const item of items) {
    if (item.kind === 'stay' && run !== undefined) {
      run.length = Math.max(run.length, item.end - run.from);
      for (const out of item.stays) run.entries.push(out);
    } else {
      // A gap behind entries that stay goes with them; any other is looked into.
      if (run !== undefined) run.length = Math.max(run.length, item.at - run.from);
      else await keepGap(end, item.at);
      closeRun();
      if (item.kind === 'stay') run = { from: item.at, length: item.end - item.at, entries: item.stays };
      else if (item.kind === 'region') blocks.push({ kind: 'region', region: item.region!, from: item.at });
      else if (item.out !== undefined) {
        blocks.push({ kind: 'entry', out: item.out, from: item.at });
        lastEntryBlock = blocks.length - 1;
      }
    }
    end = Math.max(end, item.end);
  }
  if (run !== undefined) run.length = Math.max(run.length, source.size - run.from);
  else await keepGap(end, source.size);
  closeRun();
  const added: Block[] = homeless.map((out) => ({ kind: 'entry', out, from: undefined }));
  const place = lastEntryBlock >= 0 ? lastEntryBlock + 1 : dataPlace(recipe, blocks);
  blocks.splice(place, 0, ...added);
  return blocks;
}

/** With no entry left in the file, new ones go where the recipe has its data region. */
function dataPlace(recipe: Recipe, blocks: readonly Block[]): number {
  const before = new Set(recipe.regions.slice(0, recipe.dataRegion.index).map((region) => region.index));
  return blocks.reduce((place, block, i) => (block.kind === 'region' && before.has(block.region) ? i + 1 : place), 0);
}

/** Everything that was found, by offset; and the entries that have no spot to return to. */
function foundItems(archive: Archive, entries: DraftEntries, layout: Layout): { items: Item[]; homeless: number[] } {
  const table = archive.entries;
  const outOf = new Map<number, number>();
  const homeless: number[] = [];
  for (let out = 0; out < entries.count; out++) {
    const base = entries.base(out);
    if (base === undefined) homeless.push(out);
    else outOf.set(base, out);
  }
  const items: Item[] = [];
  for (const found of archive.regions.values()) {
    items.push({ kind: 'region', at: found.at, end: found.at + found.length, region: found.region.index, stays: [] });
  }
  const stays: Item[] = [];
  const slots: Item[] = [];
  for (const entry of byOffset(archive)) {
    const at = table.at(entry);
    const end = at + table.stored(entry);
    const out = outOf.get(entry);
    if (out !== undefined && entries.fresh(out) === undefined) {
      const last = stays.at(-1);
      if (last !== undefined && at <= last.end) {
        last.end = Math.max(last.end, end);
        last.stays.push(out);
      } else stays.push({ kind: 'stay', at, end, stays: [out] });
    } else slots.push({ kind: 'slot', at, end, stays: [], ...(out === undefined ? {} : { out }) });
  }
  let taken = -1;
  for (const slot of slots) {
    const shared = overlaps(stays, slot.at, slot.end) || slot.at < taken;
    const length = slot.out === undefined ? 0 : entries.fresh(slot.out)!.stored.size;
    const outgrown = layout === 'append' && length > slot.end - slot.at;
    if (slot.out !== undefined && (shared || outgrown)) {
      homeless.push(slot.out);
      if (!shared) items.push({ kind: 'slot', at: slot.at, end: slot.end, stays: [] });
    } else if (!shared) items.push(slot);
    if (!shared) taken = slot.end;
  }
  for (const stay of stays) items.push(stay);
  items.sort((a, b) => a.at - b.at || a.end - b.end);
  homeless.sort((a, b) => a - b);
  return { items, homeless };
}

/** Entries by the offset of their bytes; most archives have them in that order already. */
function byOffset(archive: Archive): Iterable<number> {
  const { entries } = archive;
  const order = Array.from({ length: entries.count }, (_, i) => i);
  const sorted = order.every((i) => i === 0 || entries.at(i - 1) <= entries.at(i));
  return sorted ? order : order.sort((a, b) => entries.at(a) - entries.at(b) || entries.stored(a) - entries.stored(b));
}

/** `stays` are disjoint and ascending. */
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

function afreshBlocks(recipe: Recipe, archive: Archive | undefined, entries: DraftEntries): Block[] {
  const data: Block[] = [];
  const staying: number[] = [];
  for (let out = 0; out < entries.count; out++) {
    if (entries.fresh(out) === undefined) staying.push(out);
    else data.push({ kind: 'entry', out, from: undefined });
  }
  if (archive !== undefined) {
    const table = archive.entries;
    const at = (out: number) => table.at(entries.base(out)!);
    let run: { kind: 'run'; from: number; length: number; entries: number[] } | undefined;
    for (const out of staying.sort((a, b) => at(a) - at(b))) {
      const end = at(out) + table.stored(entries.base(out)!);
      // Only bytes that are truly shared stay together.
      if (run !== undefined && (at(out) < run.from + run.length || (at(out) === run.from && run.length === 0))) {
        run.length = Math.max(run.length, end - run.from);
        run.entries.push(out);
      } else data.push((run = { kind: 'run', from: at(out), length: end - at(out), entries: [out] }));
    }
    data.sort((a, b) => firstOut(a) - firstOut(b));
  }
  return recipe.regions.flatMap((region): Block[] =>
    region.holds === 'entries' ? data : [{ kind: 'region', region: region.index, from: undefined }],
  );
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
  recipe: Recipe,
  blocks: readonly Block[],
  lengthOf: (block: Block) => number,
  layout: Layout,
): Placed[] {
  const { align } = recipe.dataRegion;
  const packed = layout === 'afresh' || layout === 'patch';
  let end = 0;
  return blocks.map((block) => {
    const length = lengthOf(block);
    const at = place(block);
    end = at + length;
    return { block, at, length };
  });

  function place(block: Block): number {
    if (block.kind === 'region') {
      const region = recipe.regions[block.region]!;
      if (region.fixedAt === undefined) return found(block.from, region.align) ?? up(end, region.align);
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
    if (packed) return up(end, align);
    return found(block.from, align) ?? up(end, align);
  }

  /** The old offset while there is room, else the next one that is aligned as the old one was. */
  function found(from: number | undefined, step: number): number | undefined {
    if (from === undefined || packed) return undefined;
    return from >= end ? from : end + ((((from - end) % step) + step) % step);
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
