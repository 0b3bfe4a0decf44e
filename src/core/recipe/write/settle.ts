/** Laying out a file in the making: rounds of writing, placing and packing until nothing changes any more. */
import { readChunks } from '../../bytes';
import { FaultError, FormatError, throwIfStopped } from '../../faults';
import type { VolumeSet } from '../model';
import type { SpanRequest } from '../read/late-hashes';
import { forVolumes } from '../read/per-volume';
import { encodeChunks, prepareChain } from '../read/through';
import { baseName, isListing, volumeName } from '../read/volumes';
import type { Layout } from '../model';
import { Instances } from './evaluation/instances';
import { Draft } from './model/draft';
import { bytesFollowPlace } from './packing/bound';
import type { PackSetting } from './packing/packer';
import { Resealer, type ResealedEntries } from './packing/reseal';
import { SolidWriter } from './packing/solid';
import { FileLayout } from './placement/layout';
import { assignVolumes, factsOf, newVolumes, type NewVolume } from './placement/new-volumes';
import {
  isCopy,
  isUnchanged,
  planOfCopies,
  volumeBytes,
  whole,
  type Plan,
  type PlannedVolume,
} from './rendering/planned';
import { Renderer, sameBytes, type RenderedRegion } from './rendering/render';
import { volumePieces } from './rendering/volume-pieces';

export interface Settled {
  readonly plan: Plan;
  /** Entries in the order in which their rows will be read. */
  readonly order: Int32Array;
  /** Nothing was to be different, and every byte is as it was found. */
  readonly asFound: boolean;
}

/** When the layout of a file is taken to be at rest. */
export type Rest =
  /** When nothing has moved. Nearly always right, and a round less; the caller checks the plan. */
  | 'in-place'
  /** When two rounds have written the same bytes. */
  | 'same-bytes';

/** @throws FormatError `layout-impossible`, `recipe-circular`, `cannot-add` */
export async function settle(
  setting: PackSetting,
  entries: ResealedEntries,
  layout: Layout,
  name: string,
  rest: Rest,
): Promise<Settled> {
  let reserve = 0;
  let movedOut: ReadonlySet<number> = new Set();
  for (let tries = 1; ; tries++) {
    try {
      return await new Settling(setting, entries, layout, name, reserve, movedOut).run(rest);
    } catch (error) {
      // What else lies in a volume is known only now: entries that do not fit go to another.
      if (error instanceof VolumeTooLarge && tries < MOST_TRIES) reserve = reserve * 2 + error.excess;
      else if (error instanceof RowsTooSmall) movedOut = new Set([...movedOut, ...error.entries]);
      else throw error;
    }
  }
}

/** How often entries are put elsewhere because they do not fit where they are. */
const MOST_TRIES = 8;

class VolumeTooLarge extends FormatError {
  excess = 0;
}

/** Entries whose rows do not hold their bytes, in a format where bytes may also lie elsewhere. */
class RowsTooSmall extends Error {
  constructor(readonly entries: readonly number[]) {
    super('Rows of entries do not hold their bytes.');
  }
}

/** A volume that was larger before may stay so. @throws VolumeTooLarge */
function checkLimit({ name, limit }: VolumeSet, size: number, before: number | undefined): void {
  if (limit === undefined || size <= limit || (before !== undefined && before >= size)) return;
  const fault = new VolumeTooLarge({
    code: 'layout-impossible',
    what: `a volume of ${name} would be larger than the format allows`,
    expected: `at most ${limit.toLocaleString('en')} bytes`,
    found: size.toLocaleString('en'),
  });
  fault.excess = size - limit;
  throw fault;
}

class Settling {
  private readonly setting: PackSetting;
  private readonly draft: Draft;
  private readonly instances: Instances;
  private readonly renderer: Renderer;
  private readonly volumes: NewVolume[];
  private readonly layout: FileLayout;
  private readonly resealer: Resealer;

  constructor(
    setting: PackSetting,
    private readonly entries: ResealedEntries,
    private readonly layoutName: Layout,
    private readonly name: string,
    /** Bytes that stay free in volumes of limited size. */
    reserve: number,
    movedOut: ReadonlySet<number>,
  ) {
    this.volumes = newVolumes(setting, layoutName);
    const follows = bytesFollowPlace(setting.recipe);
    const afresh = layoutName === 'patch' || setting.archive === undefined;
    const entryVolume = assignVolumes(setting, entries, this.volumes, afresh, reserve, movedOut);
    const facts = this.volumes.map(factsOf);
    // Regions of each volume are known when the volumes are.
    this.setting = { ...setting, recipe: forVolumes(setting.recipe, facts) };
    this.draft = new Draft(this.setting, entries, facts, movedOut);
    if (entryVolume !== undefined) this.draft.entryVolume.set(entryVolume);
    this.instances = new Instances(this.draft);
    const { solid } = setting.recipe;
    if (solid !== undefined && follows)
      throw new FormatError({
        code: 'layout-impossible',
        line: solid.line,
        region: solid.name,
        what: 'entries that are packed together have steps of their own that follow their offset',
        hint: 'Let the steps depend on the path or the number of the entry.',
      });
    const packed = solid === undefined ? undefined : new SolidWriter(this.draft, solid, layoutName);
    this.renderer = new Renderer(this.draft, this.instances, packed);
    this.layout = new FileLayout({
      draft: this.draft,
      instances: this.instances,
      renderer: this.renderer,
      volumes: this.volumes,
      layout: layoutName,
      apart: follows,
    });
    this.resealer = new Resealer(this.setting, this.draft, this.instances, entries);
  }

  async run(rest: Rest): Promise<Settled> {
    const { setting, draft, renderer, layout } = this;
    let before: RenderedRegion[] | undefined;
    for (let round = 1; round <= setting.limits.maxRounds; round++) {
      throwIfStopped(setting.signal);
      const { scope } = draft;
      scope.unfitCount = 0;
      scope.notHeld = undefined;
      scope.unsized = round === 1;
      draft.forget();
      this.instances.lists.forget();
      // Without keys to sort by, the edits alone decide, and the first round knows them all.
      const reordered = (round === 1 || this.instances.lists.isSorted) && renderer.order();
      if (reordered) draft.forgetOrder();
      draft.forget();
      draft.places.moved = false;
      const rendered = await renderer.round();
      const inPlace = !reordered && !draft.places.moved && before !== undefined;
      const atRest = inPlace && (rest === 'in-place' || sameBytes(before!, rendered));
      const turned = before;
      before = rendered;
      const moved = await layout.place(rendered);
      const late = await draft.late.answer((request) => this.span(request, rendered), true);
      if (round === 1 && this.isUntouched()) {
        const plan = await this.planAsFound(rendered);
        if (plan !== undefined) return { plan, order: this.order(), asFound: true };
      }
      if (!atRest || moved || late) {
        if (round === setting.limits.maxRounds) throw this.restless(turned, rendered);
        continue;
      }
      if ((draft.scope.unfitCount ?? 0) > 0) {
        // Nothing moves any more, and something still does not fit: it goes elsewhere, or is reported by writing once
        // without forgiveness.
        const leaving = [...(draft.scope.notHeld ?? [])].filter((out) => draft.mayLeaveRow(out));
        if (leaving.length > 0) throw new RowsTooSmall(leaving);
        draft.scope.unfitCount = undefined;
        draft.forget();
        await renderer.round();
      }
      if (await this.resealer.reseal()) continue;
      layout.checkPlaces(rendered);
      return { plan: await this.finish(rendered, round), order: this.order(), asFound: false };
    }
    throw this.restless(undefined, before ?? []);
  }

  /** What comes out as it was found is right, and no further round has to tell. */
  private async planAsFound(rendered: readonly RenderedRegion[]): Promise<Plan | undefined> {
    try {
      const plan = await this.finish(rendered, 1);
      return (await isCopy(plan.volumes)) ? planOfCopies(this.setting.archive!, this.name) : undefined;
    } catch (error) {
      // Not everything has its place after one round.
      if (error instanceof FaultError && error.fault.code !== 'stopped') return undefined;
      throw error;
    }
  }

  /** True when nothing is to be different, and it is cheap to see whether anything is. */
  private isUntouched(): boolean {
    const { archive, regionBytes, fieldValues } = this.setting;
    if (archive === undefined || this.layoutName !== 'keep' || regionBytes.size + fieldValues.size > 0) return false;
    if (archive.recipe.wrapped.length > 0) return false;
    const { entries } = this;
    if (entries.removes || entries.count !== archive.entries.count) return false;
    for (let out = 0; out < entries.count; out++) if (entries.fresh(out) !== undefined) return false;
    return true;
  }

  private order(): Int32Array {
    return Int32Array.from({ length: this.entries.count }, (_, position) => this.draft.order.at(position));
  }

  /** The fault of a layout that does not come to rest, naming what still changes. */
  private restless(before: readonly RenderedRegion[] | undefined, rendered: readonly RenderedRegion[]): FormatError {
    const moving = rendered
      .filter((one, i) => before === undefined || !sameBytes([before[i]!], [one]))
      .map(({ region }) => region);
    const [first] = moving;
    return new FormatError({
      code: 'recipe-circular',
      what: 'the layout does not come to rest',
      ...(first === undefined ? {} : { region: first.name, line: first.line }),
      limit: `maxRounds, ${this.setting.limits.maxRounds}`,
      hint: `Look for formulas that follow each other in ${moving.map(({ name }) => name).join(', ') || 'its regions'}.`,
    });
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

  private pieces(i: number, rendered: readonly RenderedRegion[]) {
    const { draft, layout } = this;
    return volumePieces({
      draft,
      volume: this.volumes[i]!,
      placed: layout.placed[i]!,
      rendered,
      fill: layout.fillOf(i),
    });
  }

  private async finish(rendered: readonly RenderedRegion[], rounds: number): Promise<Plan> {
    const { entries, draft, setting } = this;
    let movedBytes = 0;
    const volumes: PlannedVolume[] = [];
    for (const [i, { set, number, old }] of this.volumes.entries()) {
      // The listing of a folder is made again whenever it is opened.
      if (isListing(setting.recipe, set)) continue;
      const { pieces, moved } = this.pieces(i, rendered);
      movedBytes += moved;
      const base = old === undefined ? undefined : setting.archive!.volumes[old]!.source;
      const size = pieces.reduce((end, piece) => Math.max(end, piece.at + piece.length), 0);
      checkLimit(set, size, base?.size);
      const own = set.anyFile && old !== undefined ? setting.archive!.volumes[old]!.name : undefined;
      const name = own ?? (i === 0 ? baseName(this.name) : volumeName(set, this.name, number));
      volumes.push({ name, size, pieces, base });
    }
    if (setting.recipe.wrapped.length > 0) volumes[0] = await this.packedWhole(volumes[0]!);
    const changed: Plan['changed'][number][] = [];
    for (let out = 0; out < entries.count; out++) {
      const fresh = entries.fresh(out);
      if (fresh === undefined || fresh.onlyMoved) continue;
      const { path, stored, plainSize: size, method } = fresh;
      changed.push({ path, at: draft.entryAt[out]!, stored: stored.size, size, method });
    }
    const size = volumes.reduce((sum, volume) => sum + volume.size, 0);
    return { volumes, size, entryCount: entries.count, changed, movedBytes, rounds };
  }

  /** A file that is packed as a whole: as it was while nothing in it changed, else packed again. */
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
