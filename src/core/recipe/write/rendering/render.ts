/** The bytes of all regions for one placement of everything. */
import { collect } from '../../../bytes';
import { FormatError } from '../../../faults';
import { isFields, isList, scopeOf, truthy, type ListValue, type Scope, type Value } from '../../formula/value';
import { EMPTY_LIST } from '../../kinds/list-kind';
import type { FieldKind, Region, SplicedBytes } from '../../model';
import { itemsOf, ShapeColumn } from '../../read/columns';
import type { FoundRegion } from '../../read/read-region';
import type { RowCursor } from '../../read/table';
import { isTemplate } from '../../read/per-volume';
import { encodeWhole, prepareChain, sameChain } from '../../read/through';
import { itemShape } from '../edits/carriers';
import type { Instances } from '../evaluation/instances';
import type { Draft } from '../model/draft';
import { plainIdentity } from '../model/identity';
import type { SolidWriter } from '../packing/solid';
import { Pieces, type ApartPiece } from './pieces';

/** One region as it will be written. */
export interface RenderedRegion {
  readonly region: Region;
  /** Its parts: the first where the region is, the others apart. Unlocked regions have one, of stored bytes. */
  readonly parts: readonly RenderedPart[];
  /** The unlocked bytes, for regions that have steps. */
  readonly plain: Uint8Array | undefined;
}

export interface RenderedPart {
  readonly found: number | undefined;
  /** Bytes it had where it was found. */
  readonly foundLength: number;
  readonly align: number;
  readonly length: number;
  readonly stretches: readonly { readonly at: number; readonly bytes?: Uint8Array; readonly spliced?: SplicedBytes }[];
}

export class Renderer {
  private readonly plain = new Map<number, Uint8Array>();
  private readonly stored = new Map<number, Uint8Array>();
  private readonly values = new Map<number, Value>();
  /** Where the parts of a region that lie apart came to lie. */
  readonly apartAt = new Map<number, number[]>();

  constructor(
    private readonly draft: Draft,
    private readonly instances: Instances,
    private readonly solid: SolidWriter | undefined,
  ) {
    draft.plainLength = (index) => this.plain.get(index)?.length ?? 0;
    draft.regionValue = (index) => this.value(index);
    draft.regionBytes = (index, which) => this.bytesOf(index, which);
  }

  /** Puts the entries into the order of their rows. @returns whether it is another than before */
  order(): boolean {
    this.values.clear();
    return this.instances.orderEntries((index) => this.value(index));
  }

  /** Renders every region that is there. */
  async round(): Promise<RenderedRegion[]> {
    this.values.clear();
    const { recipe } = this.draft.setting;
    const rendered: RenderedRegion[] = [];
    for (const region of this.inOrder()) {
      if (!this.isThere(region)) continue;
      if (region === this.solid?.region) rendered.push(await this.renderSolid(this.solid));
      else if (region.holds !== 'entries') rendered.push(await this.render(region));
    }
    return rendered.sort((a, b) => recipe.regions.indexOf(a.region) - recipe.regions.indexOf(b.region));
  }

  /** Regions whose bytes others hash come before them; pools come after those who add to them. */
  private inOrder(): Region[] {
    const { recipe } = this.draft.setting;
    const isPool = (region: Region) => typeof region.holds === 'object' && region.holds.type.kind === 'pool';
    const hashed = new Set(
      recipe.shapes.flatMap((shape) => shape.fields.flatMap(({ is }) => [...(is?.uses.regionBytes ?? [])])),
    );
    const rank = (region: Region) => (hashed.has(region.index) ? (isPool(region) ? 1 : 0) : isPool(region) ? 3 : 2);
    return [...recipe.regions].sort((a, b) => rank(a) - rank(b) || a.index - b.index);
  }

  private isThere(region: Region): boolean {
    if (isTemplate(region) || this.volumeOf(region) < 0) return false;
    if (region.optional && this.draft.setting.archive?.regions.has(region.index) === true) return true;
    if (region.when === undefined) return !region.optional;
    return truthy(region.when.evaluate(this.draft.scope));
  }

  private async render(region: Region): Promise<RenderedRegion> {
    const found = this.draft.setting.archive?.regions.get(region.index);
    if (region.holds === 'bytes') return this.keptBytes(region, found);
    const unlocked = region.through.some(
      (step) => step.when === undefined || truthy(step.when.evaluate(this.entered(region))),
    );
    const base = unlocked ? 0 : this.draft.regionAt[region.index]!;
    const places = this.apartAt.get(region.index) ?? [];
    const pieces = new Pieces(base, (index) => places[index]);
    const { scope } = this.draft;
    scope.fields = undefined;
    scope.outer.length = 0;
    scope.volume = this.volumeOf(region);
    (region.holds as FieldKind).write(pieces, this.value(region.index), scope);
    this.keepTail(found, pieces);
    if (!unlocked) {
      const parts = [partOf(pieces, found?.at, found?.length ?? 0, region.align), ...pieces.apartPieces.map(apartPart)];
      if (pieces.splices.length === 0) {
        this.stored.set(region.index, pieces.bytes());
        this.plain.set(region.index, pieces.bytes());
      }
      return { region, parts, plain: undefined };
    }
    const plain = await this.flatten(region, pieces, found);
    this.plain.set(region.index, plain);
    const stored = this.throughChain(region, plain, found);
    this.stored.set(region.index, stored);
    return {
      region,
      parts: [
        {
          found: found?.at,
          foundLength: found?.length ?? 0,
          align: region.align,
          length: stored.length,
          stretches: [{ at: 0, bytes: stored }],
        },
      ],
      plain,
    };
  }

  /** The entries that are packed together, as one stretch. */
  private async renderSolid(solid: SolidWriter): Promise<RenderedRegion> {
    const { region } = solid;
    const found = this.draft.setting.archive?.regions.get(region.index);
    const plain = await solid.plainBytes();
    this.plain.set(region.index, plain);
    const stored = await solid.storedBytes(this.volumeOf(region));
    const kept = stored === 'as found';
    if (!kept) this.stored.set(region.index, stored);
    const length = kept ? found!.length : stored.length;
    const stretches = kept ? [{ at: 0, spliced: { length, from: found!.at } }] : [{ at: 0, bytes: stored }];
    return {
      region,
      parts: [{ found: found?.at, foundLength: found?.length ?? 0, align: 1, length, stretches }],
      plain,
    };
  }

  /** A scope for the formulas of a region. */
  private entered(region: Region): Scope {
    return { ...scopeOf(this.draft.facts), volume: this.volumeOf(region) };
  }

  private volumeOf(region: Region): number {
    return this.draft.volumeOfRegion(region.index);
  }

  private keptBytes(region: Region, found: FoundRegion | undefined): RenderedRegion {
    const fresh = this.draft.setting.regionBytes.get(region.index);
    if (fresh !== undefined) {
      this.stored.set(region.index, fresh);
      this.plain.set(region.index, fresh);
    }
    const length = fresh?.length ?? found?.length ?? 0;
    const stretches =
      fresh !== undefined
        ? [{ at: 0, bytes: fresh }]
        : length === 0
          ? []
          : [{ at: found!.at, spliced: { length, from: found!.at } }];
    return {
      region,
      parts: [{ found: found?.at, foundLength: found?.length ?? 0, align: region.align, length, stretches }],
      plain: undefined,
    };
  }

  /** What lies behind the shape, inside a region of stated length, stays. */
  private keepTail(found: FoundRegion | undefined, pieces: Pieces): void {
    if (found === undefined) return;
    if (found.unlocked) {
      const rest = found.plain!.subarray(found.explained);
      if (rest.length > 0 && !hasApart(pieces)) pieces.put(rest);
    } else if (found.length > found.explained) {
      pieces.splice({ length: found.length - found.explained, from: found.at + found.explained });
    }
  }

  /** An unlocked region as one stretch: what lies apart at its place, what nothing explains kept. */
  private async flatten(region: Region, pieces: Pieces, found: FoundRegion | undefined): Promise<Uint8Array> {
    const main = await this.whole(pieces, found);
    if (!hasApart(pieces)) return main;
    const parts: { bytes: Uint8Array; found: number | undefined; align: number; index: number }[] = [];
    for (const [index, part] of pieces.apartPieces.entries())
      parts.push({ bytes: await this.whole(part.pieces, found), found: part.found?.at, align: part.align, index });
    const order = [...parts].sort((a, b) => (a.found ?? Infinity) - (b.found ?? Infinity) || a.index - b.index);
    const places: number[] = [];
    let end = main.length;
    for (const part of order) {
      const at = part.found !== undefined && part.found >= end ? part.found : Math.ceil(end / part.align) * part.align;
      places[part.index] = at;
      end = at + part.bytes.length;
    }
    const kept = found?.plain;
    const result = new Uint8Array(Math.max(end, kept?.length ?? 0));
    if (kept !== undefined) result.set(kept);
    result.set(main);
    for (const part of parts) result.set(part.bytes, places[part.index]!);
    this.apartAt.set(region.index, places);
    return kept === undefined || end > kept.length ? result.subarray(0, end) : result;
  }

  /** Pieces with their named stretches filled in. */
  private async whole(pieces: Pieces, found: FoundRegion | undefined): Promise<Uint8Array> {
    const chunks: Uint8Array[] = [];
    for (const { bytes, spliced } of pieces.stretches()) {
      if (bytes !== undefined) chunks.push(bytes.slice());
      else if (spliced?.out !== undefined) {
        const { stored } = this.draft.entries.fresh(spliced.out)!;
        chunks.push(await stored.read(0, stored.size));
      } else if (spliced !== undefined)
        chunks.push(found!.plain!.subarray(spliced.from!, spliced.from! + spliced.length));
    }
    return collect(chunks);
  }

  /** The value of a region: the instance, list or pool it will hold. */
  private value(index: number): Value {
    if (!this.values.has(index)) this.values.set(index, this.valueOf(index));
    return this.values.get(index);
  }

  private valueOf(index: number): Value {
    const { draft, instances } = this;
    const region = draft.setting.recipe.regions[index]!;
    const found = draft.setting.archive?.regions.get(index);
    if (typeof region.holds !== 'object' || !this.isThere(region)) return undefined;
    const kind = region.holds;
    const column = found?.column;
    const bound =
      kind.type.kind === 'list' ? instances.regionList(index, column, itemShape(kind), region.sort) : undefined;
    if (bound !== undefined) return bound;
    const value = column?.kept(0);
    if (kind.type.kind === 'pool') return this.pool(index, kind, value);
    if (column === undefined) return this.fresh(kind, index);
    if (isFields(value)) {
      const cursor = value as RowCursor;
      return instances.inside(cursor, plainIdentity(index, `region ${index}`));
    }
    const items = itemsOf(column, 0);
    if (isList(value) && items?.column instanceof ShapeColumn) {
      return {
        length: value.length,
        at: (i: number) => {
          const row = (value as ListValue).at(i) as RowCursor;
          return instances.inside(row, plainIdentity(index, `region ${index}`), i);
        },
      };
    }
    return value;
  }

  private pool(index: number, kind: FieldKind, value: Value): Value {
    const found = value instanceof Uint8Array ? value : new Uint8Array(0);
    return this.draft.pools.of(`region ${index}`, kind, found);
  }

  private fresh(kind: FieldKind, index: number): Value {
    if (kind.type.kind === 'shape') return this.instances.root(kind.type.shape, index);
    if (kind.type.kind === 'list') return EMPTY_LIST;
    throw new FormatError({
      code: 'cannot-add',
      recipe: this.draft.setting.recipe.id,
      line: this.draft.setting.recipe.regions[index]!.line,
      region: this.draft.setting.recipe.regions[index]!.name,
      what: 'this recipe cannot make a file from nothing',
      hint: 'A region of a new file holds a shape, a list or a pool.',
    });
  }

  private bytesOf(index: number, which: 'plain' | 'stored'): Uint8Array {
    const bytes = (which === 'plain' ? this.plain : this.stored).get(index);
    // In the first round a region may be hashed before it has been written; the next round has it.
    return bytes ?? this.draft.setting.archive?.regions.get(index)?.[which] ?? new Uint8Array(0);
  }

  /** Stored bytes survive while the plain bytes and the parameters of the chain stay the same. */
  private throughChain(region: Region, plain: Uint8Array, found: FoundRegion | undefined): Uint8Array {
    const { archive, limits } = this.draft.setting;
    const options = { plainSize: plain.length, maxPlainBytes: limits.maxRegionBytes, choose: true };
    const scope = this.entered(region);
    const chain = prepareChain(region.through, { scope, ...options });
    if (found?.unlocked === true && Buffer.compare(found.plain!, plain) === 0) {
      const before = prepareChain(region.through, { scope: scopeOf(archive!.facts), ...options });
      if (sameChain(chain, before)) return found.stored!;
    }
    try {
      return encodeWhole(plain, chain);
    } catch (error) {
      // In the first round sizes may not be those of what they are sizes of; a step may look at both.
      const isFirst = this.draft.scope.unsized;
      if (!isFirst || !(error instanceof FormatError) || error.fault.code !== 'codec-failed') throw error;
      return found?.stored ?? plain;
    }
  }
}

function hasApart(pieces: Pieces): boolean {
  return pieces.apartPieces.length > 0;
}

function partOf(pieces: Pieces, found: number | undefined, foundLength: number, align: number): RenderedPart {
  return { found, foundLength, align, length: pieces.total, stretches: [...pieces.stretches()] };
}

function apartPart({ found, align, pieces }: ApartPiece): RenderedPart {
  return partOf(pieces, found?.at, found?.length ?? 0, align);
}

/** True when two rounds wrote the same bytes. */
export function sameBytes(a: readonly RenderedRegion[], b: readonly RenderedRegion[]): boolean {
  return (
    a.length === b.length &&
    a.every(
      ({ parts }, i) =>
        parts.length === b[i]!.parts.length && parts.every((part, k) => samePart(part, b[i]!.parts[k]!)),
    )
  );
}

function samePart(a: RenderedRegion['parts'][number], b: RenderedRegion['parts'][number]): boolean {
  return (
    a.length === b.length &&
    a.stretches.length === b.stretches.length &&
    a.stretches.every(({ bytes, spliced }, i) => {
      const other = b.stretches[i]!;
      if (bytes !== undefined) return other.bytes !== undefined && Buffer.compare(bytes, other.bytes) === 0;
      return (
        spliced?.length === other.spliced?.length &&
        spliced?.from === other.spliced?.from &&
        spliced?.out === other.spliced?.out
      );
    })
  );
}
