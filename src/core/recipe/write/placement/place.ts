/** Giving every block its offset: a pure function of their order, their lengths and the rules of the volume. */
import { FormatError } from '../../../faults';
import type { Recipe, Region } from '../../model';
import type { Layout } from '../../model';
import type { DataRule } from './data-rule';
import type { Block } from './sequence';

export interface Placed {
  readonly block: Block;
  readonly at: number;
  readonly length: number;
}

export interface PlaceSetting {
  readonly recipe: Recipe;
  readonly layout: Layout;
  readonly dataRegion: Region | undefined;
  readonly rule: DataRule;
  lengthOf(block: Block): number;
  /** Where a reader will look for a region, when that does not follow where it is put. */
  readonly statedStart: (region: number) => number | undefined;
  /** Where a reader will look for an entry, when that does not follow where it is put; those before it have been placed. */
  readonly statedEntryStart: (out: number) => number | undefined;
  /** Told of every block as soon as it has its place. */
  placed(block: Block, at: number): void;
}

/**
 * Gives every block its offset. A block that was found stays where it was when there is room, unless the format leaves no
 * gaps; otherwise it moves on, keeping its alignment.
 *
 * @returns the blocks, ascending
 * @throws FormatError `layout-impossible` when a region or entry cannot lie where a reader will look for it
 */
export function placeBlocks(blocks: readonly Block[], setting: PlaceSetting): Placed[] {
  const { recipe, layout, dataRegion, rule, statedStart, statedEntryStart } = setting;
  const packed = layout === 'afresh' || layout === 'patch';
  const dense = packed || rule.gaps === 'none';
  let end = 0;
  return blocks.map((block, i) => {
    const at = place(block, blocks[i - 1]);
    const length = block.kind === 'tail' ? up(end, block.step) - end : setting.lengthOf(block);
    setting.placed(block, at);
    end = Math.max(end, at + length);
    return { block, at, length };
  });

  function place(block: Block, before: Block | undefined): number {
    switch (block.kind) {
      case 'region':
        return regionPlace(block, before);
      case 'entry':
      case 'run':
        return dataPlace(block);
      case 'gap':
        return found(block.from, 1);
      case 'tail':
        return end;
      default:
        return block satisfies never;
    }
  }

  function regionPlace(block: Block & { kind: 'region' }, before: Block | undefined): number {
    const region = recipe.regions[block.region]!;
    if (block.part === 0 && region.fixedAt !== undefined) {
      if (region.fixedAt >= end) return region.fixedAt;
      throw noRoom(region, `0x${region.fixedAt.toString(16).toUpperCase()}`, end);
    }
    const stated = block.part > 0 ? undefined : statedStart(block.region);
    if (stated !== undefined && stated >= end) return stated;
    // What lay directly behind something does so when that has become shorter.
    const behindRegion =
      before?.kind === 'region' && before.from !== undefined && block.from === before.from + before.foundLength;
    const behindPart = block.part > 0 && rule.denseParts;
    const behindData = before?.kind === 'tail' || (dense && (before?.kind === 'run' || before?.kind === 'entry'));
    if (stated !== undefined || behindRegion || behindPart || behindData || packed) return up(end, block.align);
    return found(block.from, block.align);
  }

  function dataPlace(block: Block & { kind: 'entry' | 'run' }): number {
    const out = block.kind === 'entry' ? block.out : block.entries[0]!;
    const stated = statedEntryStart(out);
    // Until the layout has settled it may lie within another; whether it does in the end is looked at then.
    if (stated !== undefined) return stated;
    const data = dataRegion === undefined ? 0 : (dataRegion.fixedAt ?? statedStart(dataRegion.index) ?? 0);
    const start = Math.max(end, data);
    if (setting.lengthOf(block) === 0) return emptyPlace(block, start);
    if (dense || block.pulled === true) return up(start, rule.align);
    return found(block.from, rule.align, start);
  }

  /** Entries of no bytes lie where they did while they can, be that aligned or not. */
  function emptyPlace({ from }: Block & { kind: 'entry' | 'run' }, start: number): number {
    const aligned = up(start, rule.align);
    return from !== undefined && !packed && from >= start && from <= aligned ? from : aligned;
  }

  /** The old offset while there is room, else the next one that is aligned as the old one was. */
  function found(from: number | undefined, step: number, start = end): number {
    if (from === undefined || packed) return up(start, step);
    return from >= start ? from : start + ((((from - start) % step) + step) % step);
  }
}

function up(offset: number, align: number): number {
  return Math.ceil(offset / align) * align;
}

function noRoom(region: Region, wanted: string, end: number): FormatError {
  return new FormatError({
    code: 'layout-impossible',
    line: region.line,
    region: region.name,
    what: 'a region that has a fixed place has no room there',
    expected: `what lies before it to end at ${wanted}`,
    found: `0x${end.toString(16).toUpperCase()}`,
  });
}
