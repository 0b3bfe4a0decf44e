/** Making a file from a recipe: an archive with changes, a patch beside it, or one from nothing. */
import { ByteWriter, bufferSource, readChunks, type ByteSink, type ByteSource, type Scratch } from '../bytes';
import { FaultError, FormatError, throwIfStopped } from '../faults';
import type { Archive, Keys } from './archive';
import {
  circular,
  DraftFields,
  draftEntries,
  DraftRow,
  regionBase,
  type DraftEntries,
  type DraftSetting,
  type NewBytes,
} from './draft';
import type { Edits, Layout } from './edits';
import { blockSource, placeBlocks, planBlocks, type Block, type Placed } from './layout';
import { DEFAULT_LIMITS, type Limits } from './limits';
import type { FieldKind, Recipe, Region, Shape } from './model';
import { encodeWhole, prepareChain } from './through';
import {
  sameValue,
  type EntryFacts,
  type Fields,
  type FileFacts,
  type ListValue,
  type Scope,
  type Value,
} from './value';

/** One stretch of the new file. */
export interface Piece {
  readonly at: number;
  readonly length: number;
  readonly source: ByteSource;
  /** Offset in `source`. */
  readonly from: number;
  /** What the bytes are: copied as they were, or new. */
  readonly kind: 'copied' | 'region' | 'entry' | 'fill';
}

/** A file that is ready to be written. */
export interface Plan {
  readonly size: number;
  /** Ascending, without holes. */
  readonly pieces: readonly Piece[];
  readonly entryCount: number;
  /** Where the bytes of each new or changed entry will lie, by path. */
  readonly changed: readonly {
    readonly path: string;
    readonly at: number;
    readonly stored: number;
    readonly size: number;
    readonly method: Value;
  }[];
  /** Bytes that had to move although nothing in them changed. */
  readonly movedBytes: number;
  readonly rounds: number;
}

export interface PlanOptions {
  readonly layout?: Layout;
  readonly scratch: Scratch;
  readonly signal?: AbortSignal | undefined;
}

/**
 * Plans an archive with changes. Nothing is written yet, so a plan can be shown before it is chosen.
 *
 * @throws FormatError `cannot-add`, `layout-impossible`, `recipe-circular`
 */
export async function planRebuild(archive: Archive, edits: Edits, options: PlanOptions): Promise<Plan> {
  const setting: DraftSetting = { recipe: archive.recipe, keys: archive.keys, limits: archive.limits, archive };
  return plan(setting, edits, options);
}

/**
 * Plans a new archive from a recipe alone.
 *
 * @throws FormatError `cannot-add` when the recipe leaves a field of a new file open
 */
export async function planNew(
  recipe: Recipe,
  add: Edits['add'],
  options: Omit<PlanOptions, 'layout'> & { readonly keys?: Keys; readonly limits?: Partial<Limits> },
): Promise<Plan> {
  const setting: DraftSetting = {
    recipe,
    keys: options.keys ?? new Map<string, Uint8Array>(),
    limits: { ...DEFAULT_LIMITS, ...options.limits },
    archive: undefined,
  };
  return plan(setting, { replace: new Map(), add, remove: new Set() }, { ...options, layout: 'afresh' });
}

async function plan(setting: DraftSetting, edits: Edits, options: PlanOptions): Promise<Plan> {
  const layout = options.layout ?? 'keep';
  try {
    const entries = await draftEntries(setting, edits, layout, options.scratch, options.signal);
    const blocks = await planBlocks(setting.recipe, setting.archive, entries, layout);
    return settle(setting, entries, blocks, layout, options.signal);
  } catch (error) {
    const file = setting.archive === undefined ? {} : { file: setting.archive.source.name };
    throw error instanceof FaultError ? error.with({ recipe: setting.recipe.id, ...file }) : error;
  }
}

/** Lays out and computes formulas in turn until no offset changes any more. */
function settle(
  setting: DraftSetting,
  entries: DraftEntries,
  blocks: readonly Block[],
  layout: Layout,
  signal: AbortSignal | undefined,
): Plan {
  const writer = new RegionWriter(setting, entries);
  let placed: readonly Placed[] = [];
  for (let round = 1; round <= setting.limits.maxRounds; round++) {
    throwIfStopped(signal);
    const encoded = writer.round(placed);
    const next = placeBlocks(setting.recipe, blocks, (block) => blockLength(block, encoded, entries), layout);
    const settled =
      next.length === placed.length &&
      next.every((one, i) => one.at === placed[i]!.at && one.length === placed[i]!.length);
    placed = next;
    if (settled) return finish(setting, entries, placed, encoded, round);
  }
  const moving = setting.recipe.regions.filter((region) => region.holds !== 'entries').map((region) => region.name);
  throw new FormatError({
    code: 'recipe-circular',
    what: 'the layout does not come to rest',
    limit: `rounds of laying out, ${setting.limits.maxRounds}`,
    hint: `Look for formulas that follow each other in ${moving.join(', ')}.`,
  });
}

function blockLength(block: Block, encoded: ReadonlyMap<number, Uint8Array>, entries: DraftEntries): number {
  switch (block.kind) {
    case 'region':
      return encoded.get(block.region)!.length;
    case 'entry':
      return entries.fresh(block.out)!.stored.size;
    default:
      return block.length;
  }
}

/** Computes the bytes of all regions for one placement of everything. */
class RegionWriter {
  private readonly entryAt: Float64Array;
  private readonly regionAt: number[];
  private readonly regionLength: number[];
  private plain = new Map<number, Uint8Array>();
  private stored = new Map<number, Uint8Array>();
  private readonly pending = new Set<number>();
  private readonly values = new Map<number, Fields | ListValue>();
  private readonly scope: Scope;
  private readonly rows: DraftRow;

  constructor(
    private readonly setting: DraftSetting,
    private readonly entries: DraftEntries,
  ) {
    const { recipe, archive, keys } = setting;
    this.entryAt = new Float64Array(entries.count);
    this.regionAt = recipe.regions.map((region) => archive?.regions.get(region.index)?.at ?? 0);
    this.regionLength = recipe.regions.map((region) => archive?.regions.get(region.index)?.length ?? 0);
    const file: FileFacts = {
      region: (index) => this.value(index) as Fields,
      start: (index) => this.regionAt[index]!,
      length: (index) => this.regionLength[index]!,
      bytes: (index, which) => (which === 'plain' ? this.plainOf(index) : this.storedOf(index)),
      entryCount: () => entries.count,
      key: (slot) => {
        const key = keys.get(slot);
        if (key !== undefined) return key;
        throw new FaultError({ code: 'key-missing', what: `the slot "${slot}" needs a key` });
      },
    };
    this.scope = { file, fields: undefined, row: undefined, entry: undefined };
    this.rows = new DraftRow(setting, this.scope, entries, (out) => this.factsOf(out));
  }

  /** @returns the stored bytes of every region, by index */
  round(placed: readonly Placed[]): ReadonlyMap<number, Uint8Array> {
    for (const { block, at, length } of placed) {
      if (block.kind === 'region') {
        this.regionAt[block.region] = at;
        this.regionLength[block.region] = length;
      } else if (block.kind === 'entry') this.entryAt[block.out] = at;
      else if (block.kind === 'run') {
        const table = this.setting.archive!.entries;
        for (const out of block.entries) this.entryAt[out] = table.at(this.entries.base(out)!) - block.from + at;
      }
    }
    this.plain = new Map();
    this.stored = new Map();
    for (const index of this.setting.recipe.readingOrder) this.storedOf(index);
    return this.stored;
  }

  private factsOf(out: number): EntryFacts {
    const fresh = this.entries.fresh(out);
    if (fresh !== undefined) return freshFacts(fresh, this.entryAt[out]!);
    const table = this.setting.archive!.entries;
    const base = this.entries.base(out)!;
    return {
      path: table.path(base),
      at: this.entryAt[out]!,
      stored: table.stored(base),
      size: table.size(base),
      method: table.method(base),
      content: () => {
        throw new FormatError({
          code: 'layout-impossible',
          entry: table.path(base),
          what: 'a formula mixes the bytes of an entry with its place',
          hint: 'Keep the checksum of the bytes in a field of its own.',
        });
      },
    };
  }

  private value(index: number): Fields | ListValue {
    const known = this.values.get(index);
    if (known !== undefined) return known;
    const { recipe, archive } = this.setting;
    const kind = recipe.regions[index]!.holds as FieldKind;
    const rule = recipe.entries;
    const list: ListValue = { length: this.entries.count, at: (out) => this.rowAt(out) };
    let value: Fields | ListValue;
    if (kind.type.kind === 'list')
      value = rule.region === index ? list : (archive!.regions.get(index)!.column!.kept(0) as ListValue);
    else {
      const { shape } = kind.type as { shape: Shape };
      const last = rule.region === index ? rowsShape(shape, rule.fieldPath) : undefined;
      const rowsAt = (inner: Shape, field: number) =>
        last !== undefined && inner === last && field === rule.fieldPath.at(-1) ? list : undefined;
      value = new DraftFields(this.setting, this.scope, shape, regionBase(archive?.regions.get(index)), rowsAt);
    }
    this.values.set(index, value);
    return value;
  }

  private rowAt(out: number): Fields {
    this.rows.out = out;
    return this.rows;
  }

  private plainOf(index: number): Uint8Array {
    const known = this.plain.get(index);
    if (known !== undefined) return known;
    const region = this.setting.recipe.regions[index]!;
    if (this.pending.has(index)) throw circularRegion(this.setting.recipe, region);
    this.pending.add(index);
    try {
      const bytes = this.encode(region);
      this.plain.set(index, bytes);
      return bytes;
    } finally {
      this.pending.delete(index);
    }
  }

  private encode(region: Region): Uint8Array {
    const base = this.setting.archive?.regions.get(region.index);
    if (region.holds === 'bytes') return base?.plain ?? new Uint8Array(0);
    const out = new ByteWriter();
    try {
      (region.holds as FieldKind).write(out, this.value(region.index), { ...this.scope, fields: undefined });
    } catch (error) {
      throw error instanceof FaultError ? error.with({ region: region.name }) : error;
    }
    // What the shape did not explain stays behind it as it was.
    if (base !== undefined) out.put(base.plain.subarray(base.explained));
    return out.bytes();
  }

  private storedOf(index: number): Uint8Array {
    const known = this.stored.get(index);
    if (known !== undefined) return known;
    const region = this.setting.recipe.regions[index]!;
    const plain = this.plainOf(index);
    const stored = region.through.length === 0 ? plain : this.throughChain(region, plain);
    this.stored.set(index, stored);
    return stored;
  }

  /** Stored bytes survive while the plain bytes and the parameters of the chain stay the same. */
  private throughChain(region: Region, plain: Uint8Array): Uint8Array {
    const { archive, limits } = this.setting;
    const options = { plainSize: plain.length, maxPlainBytes: limits.maxRegionBytes };
    const chain = prepareChain(region.through, { scope: this.scope, ...options });
    const base = archive?.regions.get(region.index);
    if (base !== undefined && Buffer.compare(base.plain, plain) === 0) {
      const before = prepareChain(region.through, { scope: { ...this.scope, file: archive!.facts }, ...options });
      const same = chain.steps.every(({ context }, i) =>
        Object.entries(context.params).every(([name, value]) =>
          sameValue(value, before.steps[i]!.context.params[name]),
        ),
      );
      if (same) return base.stored;
    }
    return encodeWhole(plain, chain);
  }
}

function rowsShape(shape: Shape, path: readonly number[]): Shape {
  let current = shape;
  for (const field of path.slice(0, -1)) current = (current.fields[field]!.kind.type as { shape: Shape }).shape;
  return current;
}

function freshFacts(fresh: NewBytes, at: number): EntryFacts {
  return {
    path: fresh.path,
    at,
    stored: fresh.stored.size,
    size: fresh.plainSize,
    method: fresh.method,
    content: (which, hasher) => fresh.hashes.get(`${which}:${hasher}`),
  };
}

function circularRegion(recipe: Recipe, region: Region): FormatError {
  const field = recipe.shapes
    .flatMap((shape) => shape.fields)
    .find((one) => one.is?.uses.regionBytes.has(region.index));
  if (field !== undefined) return circular(recipe, field).with({ region: region.name });
  return new FormatError({
    code: 'recipe-circular',
    recipe: recipe.id,
    line: region.line,
    region: region.name,
    what: 'the bytes of a region need themselves',
  });
}

function finish(
  { recipe, archive }: DraftSetting,
  entries: DraftEntries,
  placed: readonly Placed[],
  encoded: ReadonlyMap<number, Uint8Array>,
  rounds: number,
): Plan {
  const pieces: Piece[] = [];
  const changed: Plan['changed'][number][] = [];
  let end = 0;
  let movedBytes = 0;
  for (const { block, at, length } of placed) {
    if (at > end)
      pieces.push({ at: end, length: at - end, source: fillSource(recipe.dataRegion.fill), from: 0, kind: 'fill' });
    const copied = blockSource(block, archive?.source);
    if (copied !== undefined) {
      pieces.push({ at, length, ...copied, kind: 'copied' });
      if (copied.from !== at) movedBytes += length;
    } else if (block.kind === 'region') {
      pieces.push({ at, length, source: bufferSource(encoded.get(block.region)!), from: 0, kind: 'region' });
    } else if (block.kind === 'entry') {
      const fresh = entries.fresh(block.out)!;
      pieces.push({ at, length, source: fresh.stored, from: 0, kind: 'entry' });
      changed.push({ path: fresh.path, at, stored: length, size: fresh.plainSize, method: fresh.method });
    }
    end = at + length;
  }
  return {
    size: end,
    pieces: pieces.filter((piece) => piece.length > 0),
    entryCount: entries.count,
    changed,
    movedBytes,
    rounds,
  };
}

/** A source of one repeated byte, as long as anyone asks for. */
function fillSource(value: number): ByteSource {
  return { name: 'fill', size: Number.MAX_SAFE_INTEGER, read: async (_, length) => new Uint8Array(length).fill(value) };
}

export interface WriteOptions {
  readonly signal?: AbortSignal | undefined;
  /** Bytes written so far. */
  readonly progress?: (done: number) => void;
}

/** The bytes of a planned file, in order. */
export async function* planBytes(plan: Plan, options: WriteOptions = {}): AsyncGenerator<Uint8Array> {
  let done = 0;
  for (const piece of plan.pieces) {
    const signal = options.signal === undefined ? {} : { signal: options.signal };
    for await (const chunk of readChunks(piece.source, piece.from, piece.length, { pieceSize: 4 << 20, ...signal })) {
      yield chunk;
      done += chunk.length;
      options.progress?.(done);
    }
  }
}

/** Writes a planned file; on any failure nothing of it is left. */
export async function writePlan(plan: Plan, sink: ByteSink, options: WriteOptions = {}): Promise<void> {
  try {
    for await (const chunk of planBytes(plan, options)) await sink.write(chunk);
    await sink.close();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}
