/** Where everything of a file in the making lies: volumes, regions, entries. */
import { FaultError, FormatError } from '../../../faults';
import type { Scope } from '../../formula/value';
import type { Recipe, Region } from '../../model';
import { liesIn, type VolumeFacts } from '../../read/per-volume';
import { lengthToEnd } from '../../read/read-region';
import type { Layout } from '../../model';
import type { Instances } from '../evaluation/instances';
import type { Draft } from '../model/draft';
import type { RenderedRegion, Renderer } from '../rendering/render';
import { dataRule, type DataRule } from './data-rule';
import { factsOf, type NewVolume } from './new-volumes';
import { placeBlocks, type Placed, type PlaceSetting } from './place';
import { planBlocks, type Block, type RegionBlock, type VolumeLayout } from './sequence';

export interface LayoutSetting {
  readonly draft: Draft;
  readonly instances: Instances;
  readonly renderer: Renderer;
  readonly volumes: readonly NewVolume[];
  readonly layout: Layout;
  /** Entries lie by themselves: their bytes follow from where they lie. */
  readonly apart: boolean;
}

export class FileLayout {
  /** The blocks of each volume, ascending. */
  placed: (readonly Placed[])[] = [];
  private readonly recipe: Recipe;
  private blocks: (readonly Block[])[] = [];
  private blockShape = '';
  private rules: DataRule[] = [];
  /** Regions a reader looks for where formulas say, wherever they are put. */
  private readonly statedStarts = new Map<number, number>();
  private entriesTold: boolean | undefined;
  private readonly keptAt = new Map<number, number>();

  constructor(private readonly setting: LayoutSetting) {
    this.recipe = setting.draft.setting.recipe;
  }

  /**
   * Places everything for what has been rendered.
   *
   * @returns whether anything moved
   */
  async place(rendered: readonly RenderedRegion[]): Promise<boolean> {
    const { draft, volumes } = this.setting;
    await this.planBlocks(rendered);
    this.findTold();
    const parts = new Map(rendered.map((one) => [one.region.index, one]));
    let moved = false;
    for (const [i] of volumes.entries()) {
      const before = this.placed[i];
      const placed = placeBlocks(this.blocks[i]!, this.placeSetting(i, parts));
      moved ||=
        before?.length !== placed.length ||
        placed.some((one, k) => one.at !== before[k]!.at || one.length !== before[k]!.length);
      this.placed[i] = placed;
      draft.volumeSizes[i] = placed.reduce((end, one) => Math.max(end, one.at + one.length), 0);
    }
    this.placeRows(rendered);
    for (const region of this.recipe.dataRegions) moved = this.placeDataRegion(region) || moved;
    return moved;
  }

  /**
   * A reader must find every region where it lies.
   *
   * @throws FormatError `layout-impossible` naming the region
   */
  checkPlaces(rendered: readonly RenderedRegion[]): void {
    const { draft } = this.setting;
    for (const { region } of rendered) {
      if (region.at === undefined || region.fixedAt !== undefined) continue;
      const stated = this.lookedForAt(region)?.value;
      if (stated === draft.regionAt[region.index]) continue;
      throw new FormatError({
        code: 'layout-impossible',
        recipe: this.recipe.id,
        line: region.line,
        region: region.name,
        what: `region ${region.name} would be looked for where it does not lie`,
        expected: `0x${draft.regionAt[region.index]!.toString(16).toUpperCase()}`,
        found: stated === undefined ? 'no place' : `0x${stated.toString(16).toUpperCase()} = ${region.at.text}`,
        hint: 'Give the pointer to it `is: start(region)`, or put what grows behind it.',
      });
    }
  }

  /** The fill between what is aligned in a volume. */
  fillOf(volume: number): number {
    return this.rules[volume]?.fill ?? 0;
  }

  private async planBlocks(rendered: readonly RenderedRegion[]): Promise<void> {
    const { volumes, draft } = this.setting;
    for (const [i, { old }] of volumes.entries()) {
      if (this.rules[i] !== undefined) continue;
      const region = this.dataRegionOf(i);
      const rule = await dataRule(region, draft.setting.archive, old, this.isChained());
      // Where no entry comes, goes or changes, all lie as they were found, however that is.
      this.rules[i] = this.isUntouched(i) ? { ...rule, order: 'any', gaps: 'kept', denseParts: false } : rule;
    }
    const shape = `${draft.order.version};${rendered.map(({ region, parts }) => `${region.index}:${parts.length}`).join()}`;
    if (shape === this.blockShape) return;
    this.blockShape = shape;
    for (const [i, volume] of volumes.entries())
      this.blocks[i] = await planBlocks(this.volumeLayout(i), regionBlocks(rendered, factsOf(volume)));
  }

  private isUntouched(i: number): boolean {
    const { draft, volumes, layout } = this.setting;
    const { old } = volumes[i]!;
    const { archive } = draft.setting;
    if (archive === undefined || old === undefined || layout === 'afresh' || layout === 'patch') return false;
    if (draft.entries.removes) return false;
    for (let out = 0; out < draft.entries.count; out++) {
      const base = draft.entries.base(out);
      const wasHere = base !== undefined && archive.entries.volume(base) === old;
      const isHere = draft.entryVolume[out] === i;
      if (wasHere !== isHere || (isHere && draft.entries.fresh(out) !== undefined)) return false;
    }
    return true;
  }

  private dataRegionOf(i: number): Region | undefined {
    return this.recipe.dataRegions.find((region) => region.volume === this.setting.volumes[i]!.set.name);
  }

  private volumeLayout(i: number): VolumeLayout {
    const { draft, layout, volumes, apart } = this.setting;
    const { entries, setting, order } = draft;
    const outs: number[] = [];
    if (this.recipe.solid === undefined)
      for (let out = 0; out < entries.count; out++)
        if (draft.entryVolume[out] === i && !draft.isMarker(out) && !draft.isInRow(out)) outs.push(out);
    return {
      recipe: this.recipe,
      archive: setting.archive,
      entries,
      order,
      layout,
      volume: volumes[i]!.old,
      dataRegion: this.dataRegionOf(i),
      rule: this.rules[i]!,
      outs,
      apart: apart || this.isChained(),
    };
  }

  private placeSetting(i: number, rendered: ReadonlyMap<number, RenderedRegion>): PlaceSetting {
    const { draft, layout } = this.setting;
    const { entries } = draft;
    const chained = this.isChained();
    return {
      recipe: this.recipe,
      layout,
      dataRegion: this.dataRegionOf(i),
      rule: this.rules[i]!,
      lengthOf: (block) => {
        switch (block.kind) {
          case 'region':
            return rendered.get(block.region)!.parts[block.part]!.length;
          case 'entry':
            return entries.fresh(block.out)!.stored.size;
          case 'run': {
            const only = block.entries.length === 1 ? entries.fresh(block.entries[0]!) : undefined;
            return only?.stored.size ?? block.length;
          }
          case 'gap':
            return block.length;
          case 'tail':
            return 0;
          default:
            return block satisfies never;
        }
      },
      statedStart: (region) => this.statedStarts.get(region),
      statedEntryStart: (out) => (chained || this.isPlaceless(out) ? this.entryLookedForAt(out) : undefined),
      placed: (block, at) => this.settle(block, at, rendered),
    };
  }

  private settle(block: Block, at: number, rendered: ReadonlyMap<number, RenderedRegion>): void {
    const { draft, renderer } = this.setting;
    switch (block.kind) {
      case 'region':
        if (block.part === 0) {
          draft.regionAt[block.region] = at;
          draft.regionLength[block.region] = rendered.get(block.region)!.parts[0]!.length;
        } else {
          const places = renderer.apartAt.get(block.region) ?? [];
          places[block.part - 1] = at;
          renderer.apartAt.set(block.region, places);
        }
        return;
      case 'entry':
        draft.entryAt[block.out] = at;
        return;
      case 'run':
        for (const out of block.entries)
          draft.entryAt[out] = draft.setting.archive!.entries.at(draft.entries.base(out)!) - block.from + at;
        return;
      case 'gap':
      case 'tail':
        return;
      default:
        block satisfies never;
    }
  }

  /** Entries inside their rows lie where these were written. */
  private placeRows(rendered: readonly RenderedRegion[]): void {
    const { draft } = this.setting;
    if (!draft.mayLieInRows) return;
    const { archive } = draft.setting;
    const { entries } = draft;
    for (const { parts } of rendered) {
      for (const part of parts) {
        for (const { at, spliced } of part.stretches) {
          if (spliced?.out !== undefined) draft.entryAt[spliced.out] = at;
          else if (spliced?.from !== undefined && archive !== undefined) this.keptAt.set(spliced.from, at);
        }
      }
    }
    for (let out = 0; out < entries.count; out++) {
      const base = entries.base(out);
      if (base === undefined || entries.fresh(out) !== undefined || !draft.isInRow(out)) continue;
      const at = this.keptAt.get(archive!.entries.at(base));
      if (at !== undefined) draft.entryAt[out] = at;
    }
  }

  /**
   * Where a region of entries begins, and how long it is, as a reader works it out: where its `at` says, else behind the
   * regions the recipe puts before it.
   *
   * @returns whether it is another place than before
   */
  private placeDataRegion(region: Region): boolean {
    const { draft } = this.setting;
    const { index } = region;
    const place = draft.volumeOfRegion(index);
    const placed = this.placed[place] ?? [];
    const data = placed.filter(({ block }) => block.kind === 'entry' || block.kind === 'run');
    const end = data.reduce((most, one) => Math.max(most, one.at + one.length), 0);
    const before = [draft.regionAt[index], draft.regionLength[index]];
    const start =
      region.at === undefined
        ? this.behindRegions(region)
        : (region.fixedAt ?? this.statedStarts.get(index) ?? this.freeStart(region, placed, data[0]?.at));
    draft.regionAt[index] = start;
    draft.regionLength[index] = lengthToEnd(region, draft.facts, place) ?? Math.max(0, end - start);
    return before[0] !== start || before[1] !== draft.regionLength[index];
  }

  /** Where a pointer may say that the entries begin: where they began while nothing else lies there, else at the first. */
  private freeStart(region: Region, placed: readonly Placed[], first: number | undefined): number {
    const { draft, layout } = this.setting;
    const { archive } = draft.setting;
    const before = archive?.facts.start(region.index);
    if (first === undefined) return before ?? this.behindRegions(region);
    if (before === undefined || layout === 'afresh' || layout === 'patch' || before > first) return first;
    const isFree = placed.every(
      ({ block, at, length }) => block.kind !== 'region' || at >= first || at + length <= before,
    );
    return isFree ? before : first;
  }

  private behindRegions(data: Region): number {
    const { draft } = this.setting;
    if (data.fixedAt !== undefined) return data.fixedAt;
    let end = 0;
    for (const region of this.recipe.regions.slice(0, data.index))
      if (region.volume === data.volume && region.holds !== 'entries')
        end = Math.max(end, draft.regionAt[region.index]! + draft.regionLength[region.index]!);
    return Math.ceil(end / data.align) * data.align;
  }

  /** Where a reader will look for each region whose place follows from others, and not from a pointer to itself. */
  private findTold(): void {
    this.statedStarts.clear();
    for (const region of this.recipe.regions) {
      if (region.at === undefined || region.fixedAt !== undefined || region.at.uses.end) continue;
      const looked = this.lookedForAt(region);
      if (looked !== undefined && !looked.asksItself) this.statedStarts.set(region.index, looked.value);
    }
  }

  private lookedForAt(region: Region): { readonly value: number; readonly asksItself: boolean } | undefined {
    const { draft } = this.setting;
    const { scope } = draft;
    scope.fields = undefined;
    scope.outer.length = 0;
    scope.volume = draft.volumeOfRegion(region.index);
    try {
      const { value, asksItself } = draft.watching('region', region.index, () => region.at!.evaluate(scope));
      return typeof value === 'number' ? { value, asksItself } : undefined;
    } catch (error) {
      // In the first round some regions it asks for are not there yet.
      if (error instanceof FaultError) return undefined;
      throw error;
    }
  }

  /** True when entries lie where formulas say, and no field could say otherwise. */
  private isChained(): boolean {
    if (this.entriesTold === undefined) {
      const { at } = this.recipe.entries;
      const { draft } = this.setting;
      const { entries } = draft;
      // What is marked as gone lies nowhere, whatever its row says.
      let first = 0;
      let last = entries.count - 1;
      while (first <= last && draft.isMarker(first)) first++;
      while (last > first && draft.isMarker(last)) last--;
      const sample = first > last ? [] : [first, last];
      this.entriesTold =
        at !== undefined &&
        !draft.mayLieInRows &&
        sample.length > 0 &&
        sample.every((out) => !this.pointsAtItself(out));
    }
    return this.entriesTold;
  }

  /** True for an entry of no bytes whose row says nothing of where it lies. */
  private isPlaceless(out: number): boolean {
    const { entries } = this.setting.draft;
    const base = entries.base(out);
    const stored = entries.fresh(out)?.stored.size ?? this.setting.draft.setting.archive!.entries.stored(base!);
    if (stored > 0 || this.recipe.entries.at === undefined) return false;
    let known = this.placeless.get(out);
    if (known === undefined) this.placeless.set(out, (known = !this.pointsAtItself(out)));
    return known;
  }
  private readonly placeless = new Map<number, boolean>();

  private pointsAtItself(out: number): boolean {
    const { draft } = this.setting;
    const { at } = this.recipe.entries;
    try {
      const stated = draft.watching('entry', out, () => at!.evaluate(this.entryScope(out)));
      return stated.asksItself;
    } catch (error) {
      if (error instanceof FaultError) return at!.uses.entry.has('row') && !at!.uses.entry.has('previous');
      throw error;
    }
  }

  private entryScope(out: number): Scope {
    const { draft, instances } = this.setting;
    const scope = instances.entryScope(out);
    const before = draft.order.before(out);
    scope.previous = before === undefined ? undefined : draft.entryFacts(before);
    return scope;
  }

  private entryLookedForAt(out: number): number | undefined {
    try {
      const at = this.recipe.entries.at!.evaluate(this.entryScope(out));
      return typeof at === 'number' ? at : undefined;
    } catch (error) {
      if (error instanceof FaultError) return undefined;
      throw error;
    }
  }
}

function regionBlocks(rendered: readonly RenderedRegion[], volume: VolumeFacts): RegionBlock[] {
  return rendered
    .filter(({ region }) => liesIn(region, volume))
    .flatMap(({ region, parts }) =>
      parts.map((part, index): RegionBlock => ({
        kind: 'region',
        region: region.index,
        part: index,
        from: part.found,
        foundLength: part.foundLength,
        align: part.align,
      })),
    );
}
