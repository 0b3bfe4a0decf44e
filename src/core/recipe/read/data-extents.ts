/** Where the regions that hold entries begin and end, which only the entries say. */
import { scopeOf, type FileFacts } from '../formula/value';
import { knownBlocks } from './entry-bytes';
import type { OpeningState } from './opening-state';
import { liesIn } from './per-volume';
import { lengthToEnd } from './read-region';
import { volumeFactsOf } from './volumes';

export class DataExtents {
  private readonly lengths = new Map<number, number>();
  /** Of regions whose place is stored: each row may ask for it. */
  private readonly starts = new Map<number, number>();
  private readonly counts = new Map<number, number>();

  constructor(
    private readonly state: OpeningState,
    private readonly facts: FileFacts,
  ) {}

  /** Bytes from the start of a region of entries to the end of the last; undefined for other regions. */
  length(index: number): number | undefined {
    const { entries, recipe, volumes } = this.state;
    const region = recipe.regions[index]!;
    if (entries === undefined || !recipe.dataRegions.includes(region)) return undefined;
    const known = this.lengths.get(index);
    if (known !== undefined) return known;
    const start = this.start(index);
    let end = start;
    const volume = volumes.findIndex((one) => liesIn(region, volumeFactsOf(one)));
    const whole = lengthToEnd(region, this.facts, volume);
    if (whole !== undefined) {
      this.lengths.set(index, whole);
      return whole;
    }
    for (let i = 0; i < entries.count; i++) {
      if (entries.isDeleted(i) || volumes[entries.volume(i)]?.set.name !== region.volume) continue;
      for (const last of this.endsOf(i)) if (last > end) end = last;
    }
    this.lengths.set(index, end - start);
    return end - start;
  }

  /** Where the bytes of an entry end: one place, or one for each block that lies anywhere. */
  private endsOf(entry: number): number[] {
    const { entries, opened, recipe } = this.state;
    if (opened === undefined || recipe.entries.blocks?.at === undefined)
      return [entries!.at(entry) + entries!.stored(entry)];
    return knownBlocks(opened, entry).map(({ place, stored }) => place! + stored);
  }

  entriesIn(volume: number): number {
    const { entries } = this.state;
    if (entries === undefined) return 0;
    if (this.counts.size === 0)
      for (let i = 0; i < entries.count; i++)
        if (!entries.isDeleted(i)) this.counts.set(entries.volume(i), (this.counts.get(entries.volume(i)) ?? 0) + 1);
    return this.counts.get(volume) ?? 0;
  }

  /** Where the entries begin: behind the regions the recipe puts before them. */
  start(index: number): number {
    const { recipe, found } = this.state;
    const data = recipe.regions[index]!;
    if (data.at !== undefined) {
      let start = this.starts.get(index);
      if (start === undefined) this.starts.set(index, (start = Number(data.at.evaluate(scopeOf(this.facts)))));
      return start;
    }
    let end = 0;
    for (const region of recipe.regions.slice(0, index)) {
      const before = found.get(region.index);
      if (before !== undefined && region.volume === data.volume) end = Math.max(end, before.at + before.length);
    }
    return Math.ceil(end / data.align) * data.align;
  }
}
