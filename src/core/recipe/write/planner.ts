/** Laying out a file in the making: rounds of writing and placing until nothing moves any more. */
import { bufferSource, lazySource, readChunks, type ByteSource } from '../../bytes';
import { FaultError, FormatError, throwIfStopped } from '../../faults';
import type { Recipe, Region } from '../model';
import { readEntry } from '../read/entry-bytes';
import type { SpanRequest } from '../read/late-hashes';
import { forVolumes, liesIn, type VolumeFacts } from '../read/per-volume';
import { encodeChunks, prepareChain } from '../read/through';
import { baseName, isListing, volumeName } from '../read/volumes';
import { Draft, type DraftEntries } from './draft';
import { DraftLists } from './draft-lists';
import type { Layout } from './edits';
import {
  blockSource,
  placeBlocks,
  planBlocks,
  type Block,
  type Placed,
  type RegionBlock,
  type VolumeLayout,
} from './layout';
import { assignVolumes, factsOf, newVolumes, type NewVolume } from './new-volumes';
import { chainsFollowPlace, repackUnchanged, type PackSetting } from './pack';
import { isUnchanged, volumeBytes, whole, type Piece, type Plan, type PlannedVolume } from './planned';
import { Renderer, sameBytes, type RenderedRegion } from './render';
import { SolidWriter } from './solid';

/** How far a region is moved to see whether the place it is read from follows. */
const PROBE_BYTES = 4096;

/** Lays out and computes formulas in turn until nothing changes any more. */
export class Planner {
  private readonly setting: PackSetting;
  private readonly draft: Draft;
  private readonly renderer: Renderer;
  private readonly volumes: NewVolume[];
  private readonly inRows: boolean;
  private readonly followsPlace: boolean;
  /** Entries lie where the one before ends, and no field can say otherwise. */
  private readonly chained: boolean;
  private blocks: (readonly Block[])[] = [];
  private blockShape = '';
  private placed: (readonly Placed[])[] = [];
  private readonly wanted = new Map<number, number>();

  constructor(
    setting: PackSetting,
    private readonly entries: DraftEntries,
    private readonly layout: Layout,
    private readonly name: string,
  ) {
    this.volumes = newVolumes(setting, layout);
    this.inRows = setting.recipe.entries.data !== undefined;
    this.followsPlace = chainsFollowPlace(setting);
    this.chained = isChained(setting.recipe);
    const afresh = layout === 'patch' || setting.archive === undefined;
    const entryVolume = assignVolumes(setting, entries, this.volumes, afresh);
    const facts = this.volumes.map(factsOf);
    // Regions of each volume are known when the volumes are.
    this.setting = { ...setting, recipe: forVolumes(setting.recipe, facts) };
    this.draft = new Draft(this.setting, entries, facts);
    if (entryVolume !== undefined) this.draft.entryVolume.set(entryVolume);
    const lists = new DraftLists(this.draft);
    const { solid } = setting.recipe;
    if (solid !== undefined && this.followsPlace)
      throw new FormatError({
        code: 'layout-impossible',
        line: solid.line,
        region: solid.name,
        what: 'entries that are packed together have steps of their own that follow their offset',
        hint: 'Let the steps depend on the path or the number of the entry.',
      });
    const packed = solid === undefined ? undefined : new SolidWriter(this.draft, solid, layout);
    this.renderer = new Renderer(this.draft, lists, packed);
  }

  async plan(): Promise<Plan> {
    const { setting, draft } = this;
    let before: RenderedRegion[] | undefined;
    for (let round = 1; round <= setting.limits.maxRounds; round++) {
      throwIfStopped(setting.signal);
      draft.scope.setAside = 0;
      const rendered = await this.renderer.round();
      const same = before !== undefined && sameBytes(before, rendered);
      before = rendered;
      const moved = await this.place(rendered);
      const late = await draft.late.answer((request) => this.span(request, rendered), true);
      if (!same || moved || late) continue;
      if (draft.scope.setAside > 0) {
        // Nothing moves any more, and something still does not fit: said by writing once without forgiveness.
        draft.scope.setAside = undefined;
        await this.renderer.round();
      }
      this.checkPlaces(rendered);
      return this.finish(rendered, round);
    }
    const moving = setting.recipe.regions.filter((region) => region.holds !== 'entries').map((region) => region.name);
    throw new FormatError({
      code: 'recipe-circular',
      what: 'the layout does not come to rest',
      limit: `maxRounds, ${setting.limits.maxRounds}`,
      hint: `Look for formulas that follow each other in ${moving.join(', ')}.`,
    });
  }

  /** Places everything for what has been rendered. @returns whether anything moved */
  private async place(rendered: readonly RenderedRegion[]): Promise<boolean> {
    const { draft, volumes, setting } = this;
    const shape = rendered.map(({ region, parts }) => `${region.index}:${parts.length}`).join();
    if (shape !== this.blockShape) {
      this.blockShape = shape;
      this.blocks = [];
      for (const [i] of volumes.entries()) {
        const layout = this.volumeLayout(i);
        this.blocks[i] = await planBlocks(layout, regionBlocks(rendered, factsOf(volumes[i]!)));
      }
    }
    this.findWanted();
    const lengths = new Map(rendered.map((one) => [one.region.index, one]));
    let moved = false;
    const next = volumes.map((_, i) =>
      placeBlocks(
        this.volumeLayout(i),
        this.blocks[i]!,
        (block) => {
          if (block.kind === 'region') return lengths.get(block.region)!.parts[block.part]!.length;
          return block.kind === 'entry' ? this.entries.fresh(block.out)!.stored.size : block.length;
        },
        (block, at) => this.settle(block, at, lengths),
      ),
    );
    for (const [i, placed] of next.entries()) {
      const before = this.placed[i];
      moved ||=
        before?.length !== placed.length ||
        placed.some((one, k) => one.at !== before[k]!.at || one.length !== before[k]!.length);
      for (const { block, at } of placed) this.settle(block, at, lengths);
      draft.volumeSizes[i] = placed.reduce((end, one) => Math.max(end, one.at + one.length), 0);
    }
    this.placed = next;
    this.placeRows(rendered);
    for (const region of setting.recipe.dataRegions) this.dataRegionPlace(region.index);
    return moved;
  }

  private settle(block: Block, at: number, rendered: ReadonlyMap<number, RenderedRegion>): void {
    const { draft, entries, renderer, setting } = this;
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
          draft.entryAt[out] = setting.archive!.entries.at(entries.base(out)!) - block.from + at;
        return;
      case 'gap':
        return;
      default:
        block satisfies never;
    }
  }

  /** Entries inside their rows lie where these were written. */
  private placeRows(rendered: readonly RenderedRegion[]): void {
    if (!this.inRows) return;
    const { archive } = this.setting;
    for (const { parts } of rendered) {
      for (const part of parts) {
        for (const { at, spliced } of part.stretches) {
          if (spliced?.out !== undefined) this.draft.entryAt[spliced.out] = at;
          else if (spliced?.from !== undefined && archive !== undefined) this.keptAt.set(spliced.from, at);
        }
      }
    }
    for (let out = 0; out < this.entries.count; out++) {
      const base = this.entries.base(out);
      if (base === undefined || this.entries.fresh(out) !== undefined) continue;
      const at = this.keptAt.get(archive!.entries.at(base));
      if (at !== undefined) this.draft.entryAt[out] = at;
    }
  }
  private readonly keptAt = new Map<number, number>();

  /** The region of the entries begins where it began while there is room, else at the first of them. */
  private dataRegionPlace(index: number): void {
    const { draft, setting } = this;
    const region = setting.recipe.regions[index]!;
    const place = this.volumes.findIndex((volume) => liesIn(region, factsOf(volume)));
    const placed = this.placed[place] ?? [];
    const data = placed.filter(({ block }) => block.kind === 'entry' || block.kind === 'run');
    const first = data[0]?.at;
    const last = data.at(-1);
    const start = this.keptDataStart(region, placed, first) ?? first ?? this.emptyDataAt(index);
    // Where a reader will look does not always follow the first entry.
    draft.regionAt[index] = this.wanted.get(index) ?? start;
    draft.regionLength[index] = last === undefined ? 0 : last.at + last.length - draft.regionAt[index]!;
    // While reading, the data begins behind the regions before it, whatever its first entry's place.
    if (setting.archive !== undefined && region.at === undefined) draft.regionAt[index] = this.emptyDataAt(index);
  }

  /** Where the region began in the file that was found, when nothing else lies between there and its first entry now. */
  private keptDataStart(region: Region, placed: readonly Placed[], first: number | undefined): number | undefined {
    const { archive } = this.setting;
    if (archive === undefined || region.at === undefined) return undefined;
    const before = archive.facts.start(region.index);
    if (first === undefined) return before;
    if (this.layout === 'afresh' || this.layout === 'patch' || before > first) return undefined;
    const isFree = placed.every(
      ({ block, at, length }) => block.kind !== 'region' || at >= first || at + length <= before,
    );
    return isFree ? before : undefined;
  }

  private emptyDataAt(index: number): number {
    const { draft, setting } = this;
    const data = setting.recipe.regions[index]!;
    if (data.fixedAt !== undefined) return data.fixedAt;
    let end = 0;
    for (const region of setting.recipe.regions.slice(0, index))
      if (region.volume === data.volume && region.holds !== 'entries')
        end = Math.max(end, draft.regionAt[region.index]! + draft.regionLength[region.index]!);
    return Math.ceil(end / data.align) * data.align;
  }

  /** The offset that the formula gives an entry from the one before it. */
  private toldByPrevious(out: number): number | undefined {
    const { draft, setting } = this;
    const { scope } = draft;
    scope.fields = undefined;
    scope.outer.length = 0;
    scope.rows = [];
    scope.entry = draft.entryFacts(out);
    scope.previous = out > 0 ? draft.entryFacts(out - 1) : undefined;
    const at = setting.recipe.entries.at!.evaluate(scope);
    return typeof at === 'number' ? at : undefined;
  }

  private volumeLayout(i: number): VolumeLayout {
    const { setting, entries, layout, draft, volumes } = this;
    const { set, old } = volumes[i]!;
    const outs: number[] = [];
    const dataRegion = setting.recipe.dataRegions.find((region) => region.volume === set.name);
    if (!this.inRows && setting.recipe.solid === undefined)
      for (let out = 0; out < entries.count; out++)
        if (draft.entryVolume[out] === i && !draft.isMarker(out)) outs.push(out);
    return {
      recipe: setting.recipe,
      archive: setting.archive,
      entries,
      layout,
      volume: old,
      dataRegion,
      outs,
      apart: this.followsPlace || this.chained,
      chainedAt: this.chained ? (out) => this.toldByPrevious(out) : undefined,
      fill: dataRegion?.fill ?? 0,
      wantedAt: (region) => this.wanted.get(region),
    };
  }

  /**
   * Where a reader will look for each region. A place that a pointer in the file tells is free, for the pointer follows;
   * one that is worked out from counts and sizes is not.
   */
  private findWanted(): void {
    const { draft, setting } = this;
    this.wanted.clear();
    for (const region of setting.recipe.regions) {
      if (region.at === undefined || region.fixedAt !== undefined || region.at.uses.end) continue;
      const before = draft.regionAt[region.index]!;
      const told = this.placeTold(region);
      draft.regionAt[region.index] = before + PROBE_BYTES;
      const follows = this.placeTold(region) !== told;
      draft.regionAt[region.index] = before;
      if (told !== undefined && !follows) this.wanted.set(region.index, told);
    }
  }

  private placeTold(region: Region): number | undefined {
    const { scope } = this.draft;
    scope.fields = undefined;
    scope.outer.length = 0;
    scope.volume = this.volumes.findIndex((volume) => liesIn(region, factsOf(volume)));
    try {
      const at = region.at!.evaluate(scope);
      return typeof at === 'number' ? at : undefined;
    } catch (error) {
      // In the first round some regions it asks for are not there yet.
      if (error instanceof FaultError) return undefined;
      throw error;
    }
  }

  /** A reader must find every region where it lies. */
  private checkPlaces(rendered: readonly RenderedRegion[]): void {
    const { draft, setting } = this;
    for (const { region } of rendered) {
      if (region.at === undefined || region.fixedAt !== undefined) continue;
      const told = this.placeTold(region);
      if (told === draft.regionAt[region.index]) continue;
      throw new FormatError({
        code: 'layout-impossible',
        recipe: setting.recipe.id,
        line: region.line,
        region: region.name,
        what: `region ${region.name} would be looked for where it does not lie`,
        expected: `0x${draft.regionAt[region.index]!.toString(16).toUpperCase()}`,
        found: told === undefined ? 'no place' : `0x${told.toString(16).toUpperCase()} = ${region.at.text}`,
        hint: 'Give the pointer to it `is: start(region)`, or put what grows behind it.',
      });
    }
  }

  /** Bytes of the file in the making, for hashes over it. */
  private async *span(request: SpanRequest, rendered: readonly RenderedRegion[]): AsyncGenerator<Uint8Array> {
    const { space, from, to } = request;
    const plain = rendered.find(({ region }) => region.index === space)?.plain;
    if (plain !== undefined) {
      yield plain.subarray(from, to);
      return;
    }
    for (const piece of this.pieces(request.volume, rendered).pieces) {
      const start = Math.max(from, piece.at);
      const end = Math.min(to, piece.at + piece.length);
      if (start < end) yield* readChunks(piece.source, piece.from + start - piece.at, end - start);
    }
  }

  private pieces(i: number, rendered: readonly RenderedRegion[]): { pieces: Piece[]; moved: number } {
    const { setting, entries, draft, volumes } = this;
    const { old, set } = volumes[i]!;
    const source = old === undefined ? undefined : setting.archive!.volumes[old]!.source;
    const main = setting.archive?.source;
    const fill = setting.recipe.dataRegions.find((region) => region.volume === set.name)?.fill ?? 0;
    const pieces: Piece[] = [];
    let end = 0;
    let moved = 0;
    for (const { block, at, length } of this.placed[i]!) {
      if (at > end) pieces.push({ at: end, length: at - end, source: fillSource(fill), from: 0, kind: 'fill' });
      if (block.kind === 'region') {
        const part = rendered.find(({ region }) => region.index === block.region)!.parts[block.part]!;
        let offset = at;
        for (const { bytes, spliced } of part.stretches) {
          const size = bytes?.length ?? spliced!.length;
          if (bytes !== undefined)
            pieces.push({ at: offset, length: size, source: bufferSource(bytes), from: 0, kind: 'region' });
          else if (spliced!.out !== undefined)
            pieces.push({
              at: offset,
              length: size,
              source: entries.fresh(spliced!.out)!.stored,
              from: 0,
              kind: 'entry',
            });
          else {
            pieces.push({ at: offset, length: size, source: source ?? main!, from: spliced!.from!, kind: 'copied' });
            if (spliced!.from !== offset) moved += size;
          }
          offset += size;
        }
      } else if (block.kind === 'entry') {
        const fresh = entries.fresh(block.out)!;
        const stored = fresh.placed?.(draft.entryFacts(block.out)) ?? fresh.stored;
        pieces.push({ at, length, source: stored, from: 0, kind: 'entry' });
      } else {
        const copied = blockSource(block, source ?? setting.archive?.volumes[this.oldVolumeOf(block)]?.source)!;
        if (this.followsPlace && block.kind === 'run' && at !== block.from)
          pieces.push(this.repacked(block, at, length));
        else pieces.push({ at, length, ...copied, kind: 'copied' });
        if (copied.from !== at) moved += length;
      }
      end = Math.max(end, at + length);
    }
    return { pieces: pieces.filter((piece) => piece.length > 0), moved };
  }

  /** In a new layout, entries come from the volume they were in. */
  private oldVolumeOf(block: Block): number {
    return block.kind === 'run' ? this.setting.archive!.entries.volume(this.entries.base(block.entries[0]!)!) : 0;
  }

  /** An entry that moved, packed for its new place. */
  private repacked(block: Block & { kind: 'run' }, at: number, length: number): Piece {
    const [out] = block.entries;
    const base = this.entries.base(out!)!;
    const { archive } = this.setting;
    const facts = this.draft.entryFacts(out!);
    const source = lazySource(archive!.entries.path(base), length, () =>
      repackUnchanged(this.setting, base, facts, readEntry(archive!, base, { verify: false })),
    );
    return { at, length, source, from: 0, kind: 'entry' };
  }

  private async finish(rendered: readonly RenderedRegion[], rounds: number): Promise<Plan> {
    const { entries, draft, setting } = this;
    let movedBytes = 0;
    const volumes: PlannedVolume[] = [];
    for (const [i, { set, number, old }] of this.volumes.entries()) {
      // The listing of a folder is made anew whenever it is opened.
      if (isListing(setting.recipe, set)) continue;
      const { pieces, moved } = this.pieces(i, rendered);
      movedBytes += moved;
      const base = old === undefined ? undefined : setting.archive!.volumes[old]!.source;
      const size = pieces.reduce((end, piece) => Math.max(end, piece.at + piece.length), 0);
      const own = set.anyFile && old !== undefined ? setting.archive!.volumes[old]!.name : undefined;
      const name = own ?? (i === 0 ? baseName(this.name) : volumeName(set, this.name, number));
      volumes.push({ name, size, pieces, base });
    }
    if (setting.recipe.wrapped.length > 0) volumes[0] = await this.packedWhole(volumes[0]!);
    const changed: Plan['changed'][number][] = [];
    for (let out = 0; out < entries.count; out++) {
      const fresh = entries.fresh(out);
      if (fresh === undefined) continue;
      const { path, stored, plainSize: size, method } = fresh;
      changed.push({ path, at: draft.entryAt[out]!, stored: stored.size, size, method });
    }
    const size = volumes.reduce((sum, volume) => sum + volume.size, 0);
    return { volumes, size, entryCount: entries.count, changed, movedBytes, rounds };
  }

  /** A file that is packed as a whole: as it was while nothing in it changed, else packed anew. */
  private async packedWhole(volume: PlannedVolume): Promise<PlannedVolume> {
    const { setting } = this;
    const { archive, recipe, scratch, limits, signal } = setting;
    if (archive !== undefined && (await isUnchanged(volume, archive.source)))
      return { ...volume, size: archive.outer.size, pieces: [whole(archive.outer, 'copied')], base: archive.outer };
    const chain = prepareChain(recipe.wrapped, {
      scope: this.draft.scope,
      plainSize: volume.size,
      maxPlainBytes: limits.maxEntryBytes,
      choose: true,
    });
    const plain = await scratch.keep(volumeBytes(volume), volume.name);
    const stored = await scratch.keep(
      encodeChunks(plain, chain, { maxStoredBytes: limits.maxRegionBytes, signal }),
      volume.name,
    );
    return { ...volume, size: stored.size, pieces: [whole(stored, 'region')], base: archive?.outer };
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

/** A source of one repeated byte, as long as anyone asks for. */
function fillSource(value: number): ByteSource {
  return { name: 'fill', size: Number.MAX_SAFE_INTEGER, read: async (_, length) => new Uint8Array(length).fill(value) };
}

/** True when the offset of an entry is worked out from the one before, by nothing that its row could tell. */
function isChained({ entries: { at } }: Recipe): boolean {
  return at?.uses.entry.has('previous') === true && !at.uses.entry.has('row');
}
