/** Packing entries: through the chain their original went, in blocks, inside their wrap. */
import {
  bufferSource,
  collect,
  joinedSource,
  lazySource,
  readChunks,
  sliceSource,
  type ByteSource,
  type Scratch,
} from '../../bytes';
import { FaultError, FormatError, throwIfStopped } from '../../faults';
import { sameValue, type BlockFacts, type EntryFacts, type Scope, type Value } from '../formula/value';
import type { BlocksRule, Formula, Method, Shape, Step } from '../model';
import type { RowCursor } from '../read/table';
import { decodeWhole, encodeChunks, encodeWhole, prepareChain } from '../read/through';
import { contentHashes } from './content-hashes';
import { Draft, type DraftEntries, type DraftSetting } from './draft';
import { DraftFields } from './draft-fields';
import { DraftLists } from './draft-lists';
import type { NewBytes } from './new-bytes';
import { Pieces } from './pieces';
import { writeRow } from './write-row';

/** A row that holds shapes knows its lengths after as many rounds as these lie in one another. */
const ROW_ROUNDS = 4;

export interface PackSetting extends DraftSetting {
  readonly scratch: Scratch;
  readonly signal: AbortSignal | undefined;
  /** The wrap a changed entry had. */
  readonly wrapOf?: (base: number | undefined) => RowCursor | undefined;
}

export interface Order {
  readonly base: number | undefined;
  readonly path: string;
  readonly bytes: ByteSource;
  readonly time: number | undefined;
  /** Its position in a file that is made from nothing. */
  readonly index: number;
}

/** Packs an entry as its original was packed; raw where that is smaller and the format can say so. */
export async function packEntry(setting: PackSetting, order: Order): Promise<NewBytes> {
  const { recipe, archive } = setting;
  const rule = recipe.entries;
  const { base } = order;
  const count = archive?.entries.count ?? 0;
  const neighbour = base ?? (count > 0 ? count - 1 : undefined);
  const data = await contentHashes(setting, 'data', order.bytes);
  const made = new Map<string, Value>();
  const packerFor = (method: Method) =>
    new Packer(setting, order, method, rule.stepsOf(method) ?? [], neighbour, data, made);
  const usual = neighbour === undefined ? rule.methods.at(-1) : archive!.entries.method(neighbour);
  // What a new row would say by itself, such as a method field with `new: 8`.
  const told = base === undefined ? packerFor(usual).told() : undefined;
  const candidates = [
    usual,
    ...rule.rawOf(usual),
    told,
    ...(told === undefined ? [] : rule.rawOf(told)),
    ...rule.methods,
  ];
  const tried: { result: NewBytes; tells: boolean }[] = [];
  let failure: unknown;
  for (const method of candidates) {
    const steps = method === undefined && rule.methods.length > 0 ? undefined : rule.stepsOf(method ?? 0);
    if (steps === undefined || tried.some(({ result }) => sameValue(result.method, method))) continue;
    const packer = packerFor(method);
    let result: NewBytes;
    try {
      result = await packer.pack();
    } catch (error) {
      // Another way may do: one that needs no key, or that can be written and not only read.
      if (!(error instanceof FaultError) || error.fault.code === 'stopped' || isFull(error)) throw error;
      failure ??= error;
      continue;
    }
    const tells = packer.tellsMethod();
    tried.push({ result, tells });
    const compresses = steps.some(({ codec }) => codec.family === 'compression');
    const helps = !compresses || result.stored.size < order.bytes.size;
    if ((helps || rule.rawOf(method).length === 0) && tells) return result;
  }
  const fallback = tried.find(({ tells }) => tells);
  if (fallback !== undefined) return fallback.result;
  if (failure !== undefined) throw failure;
  throw new FormatError({
    code: 'layout-impossible',
    recipe: recipe.id,
    line: rule.line,
    entry: order.path,
    what: 'no way of packing gives a row that says how it was packed',
    hint: 'Give the field that tells the method `is: entry.method`, or one that follows from entry.size and entry.stored.',
  });
}

/** Faults that no other way of packing helps against. */
function isFull({ fault: { code } }: FaultError): boolean {
  return code === 'disk-full' || code === 'not-allowed' || code === 'read-only' || code === 'file-changed';
}

/** Packs one entry by one method. */
class Packer {
  private blocks: BlockFacts[] | undefined;
  /** A draft of this entry alone: steps and the wrap see its rows as they will be. */
  private readonly draft: Draft;
  private readonly lists: DraftLists;
  private readonly growing: { -readonly [K in keyof NewBytes]: NewBytes[K] };

  constructor(
    private readonly setting: PackSetting,
    private readonly order: Order,
    method: Method,
    private readonly steps: readonly Step[],
    neighbour: number | undefined,
    data: readonly [string, Value][],
    made: Map<string, Value>,
  ) {
    const { archive } = setting;
    const { base, path, bytes, time } = order;
    const nothing = bufferSource(new Uint8Array(0), path);
    this.growing = {
      base,
      path,
      method,
      plain: bytes,
      plainSize: bytes.size,
      stored: nothing,
      hashes: new Map(data),
      wrap: undefined,
      blocks: undefined,
      time,
      deleted: false,
      made,
    };
    const entries: DraftEntries = { count: 1, base: () => base, fresh: () => this.growing };
    const near = neighbour === undefined ? undefined : archive!.entries.facts(neighbour);
    const volume = { set: near?.volumeSet ?? '', number: near?.volume ?? 0 };
    this.draft = new Draft(setting, entries, [volume], base ?? archive?.entries.count ?? order.index);
    this.draft.entryVolume[0] = 0;
    this.lists = new DraftLists(this.draft);
    this.draft.regionValue = (index) => this.regionValue(index);
  }

  async pack(): Promise<NewBytes> {
    const { recipe, scratch } = this.setting;
    const { path, bytes } = this.order;
    const rule = recipe.entries;
    const placeBound = [...this.steps, ...(rule.blocks?.through ?? [])].some(followsPlace);
    const inner = rule.blocks === undefined ? bytes : await this.packBlocks(rule.blocks);
    const packed = await this.packChain(inner);
    const hashed = await contentHashes(this.setting, 'packed', packed);
    if (placeBound && hashed.length > 0)
      throw new FormatError({
        code: 'recipe-circular',
        recipe: recipe.id,
        line: rule.line,
        what: 'a hash over packed bytes cannot cover bytes that follow the place of the entry',
      });
    this.growing.hashes = new Map([...this.growing.hashes, ...hashed]);
    this.growing.stored = rule.wrap === undefined ? packed : this.wrapped(rule.wrap, packed);
    const result: NewBytes = { ...this.growing };
    if (!placeBound) return result;
    const { size } = packed;
    const placed = (facts: EntryFacts) => {
      const source = lazySource(path, size, async () => {
        const again = await this.packedAt(facts);
        if (again.size !== size)
          throw new FormatError({
            code: 'layout-impossible',
            recipe: recipe.id,
            entry: path,
            what: 'bytes that follow the place of the entry change their length with it',
          });
        return scratch.keep(readChunks(again), path);
      });
      return rule.wrap === undefined ? source : this.wrapped(rule.wrap, source);
    };
    return { ...result, placed };
  }

  private async packedAt(facts: EntryFacts): Promise<ByteSource> {
    const rule = this.setting.recipe.entries;
    return this.packChain(
      rule.blocks === undefined ? this.order.bytes : await this.packBlocks(rule.blocks, facts),
      facts,
    );
  }

  private scope(facts?: EntryFacts): Scope {
    const rule = this.setting.recipe.entries;
    const { scope } = this.draft;
    scope.entry = facts ?? this.draft.entryFacts(0);
    scope.rows = [rule.each, ...rule.beside].map((binding, i) => this.lists.rowOf(0, binding, i));
    scope.own = this.growing.wrap ?? (rule.wrap === undefined ? undefined : this.own(rule.wrap));
    return scope;
  }

  private own(shape: Shape, packed?: ByteSource): DraftFields {
    const base = this.setting.wrapOf?.(this.order.base);
    const place = base === undefined ? undefined : { table: base.table, row: base.row };
    const data = packed === undefined ? undefined : { stretch: true as const, at: 0, length: packed.size, out: 0 };
    const identity = { base: place, out: 0, folder: undefined, block: undefined, key: place ?? 'wrap' };
    return new DraftFields(this.draft, this.lists, shape, identity, data);
  }

  /** Regions as the old archive has them, or as a new one will begin. */
  private regionValue(index: number): Value {
    const { archive, recipe } = this.setting;
    if (archive !== undefined) return archive.facts.region(index);
    const { holds } = recipe.regions[index]!;
    if (typeof holds !== 'object' || holds.type.kind !== 'shape') return undefined;
    return this.lists.rootInstance(holds.type.shape, index);
  }

  /** The method the row would tell before anything is packed; undefined when it tells none the recipe knows. */
  told(): Method {
    const rule = this.setting.recipe.entries;
    try {
      const told = rule.methodOf(this.scope());
      return rule.stepsOf(told) === undefined ? undefined : told;
    } catch (error) {
      if (error instanceof FormatError) return undefined;
      throw error;
    }
  }

  /** True when a reader of the new row would find the method that was used. */
  tellsMethod(): boolean {
    const rule = this.setting.recipe.entries;
    this.writeRows();
    const told = rule.methodOf(this.scope());
    return sameValue(told, this.growing.method) || rule.stepsOf(told) === this.steps;
  }

  /** Writes the rows to nowhere, so that lengths of their fields are known. */
  private writeRows(): void {
    const rule = this.setting.recipe.entries;
    if (rule.each.shape.fields.every(({ kind }) => kind.type.kind === 'value')) return;
    for (let round = 0; round < ROW_ROUNDS; round++) {
      const scope = this.scope();
      scope.fields = undefined;
      try {
        writeRow(rule.each.shape, this.lists.rowOf(0, rule.each, 0)!, new Pieces(0, () => undefined), scope);
      } catch (error) {
        // What follows the layout is not known yet; what can be known is.
        if (!(error instanceof FormatError)) throw error;
        scope.outer.length = 0;
      }
    }
  }

  /** The shape around the packed bytes, with what it says of them. */
  private wrapped(shape: Shape, packed: ByteSource): ByteSource {
    const { setting, draft, lists, growing } = this;
    const fields = this.own(shape, packed);
    growing.stored = packed;
    growing.wrap = fields;
    let before: Uint8Array | undefined;
    for (let round = 0; round < setting.limits.maxRounds; round++) {
      lists.forgetFacts();
      const pieces = new Pieces(0, () => undefined);
      const scope = this.scope();
      scope.own = fields;
      scope.fields = undefined;
      writeRow(shape, fields, pieces, scope);
      growing.stored = { ...packed, size: pieces.total };
      const bytes = pieces.bytes().slice();
      const late = draft.late.answerNow(({ from, to }) => spanOfPieces(pieces, from, to));
      if (!late && before !== undefined && Buffer.compare(before, bytes) === 0)
        return joinWrap(pieces, packed, this.order.path);
      before = bytes;
    }
    throw new FormatError({
      code: 'recipe-circular',
      recipe: setting.recipe.id,
      line: shape.line,
      what: `the fields of ${shape.name} do not come to rest`,
      limit: `maxRounds, ${setting.limits.maxRounds}`,
    });
  }

  private async packChain(inner: ByteSource, facts?: EntryFacts): Promise<ByteSource> {
    const { limits, scratch, signal } = this.setting;
    if (this.steps.length === 0) return inner;
    const options = { scope: this.scope(facts), plainSize: inner.size, maxPlainBytes: limits.maxEntryBytes };
    const chain = prepareChain(this.steps, options);
    return scratch.keep(encodeChunks(inner, chain, { maxStoredBytes: limits.maxRegionBytes, signal }), this.order.path);
  }

  private async packBlocks(rule: BlocksRule, facts?: EntryFacts): Promise<ByteSource> {
    const { scratch } = this.setting;
    this.blocks = [];
    this.growing.blocks = this.blocks;
    return scratch.keep(this.blockChunks(rule, this.blocks, facts), this.order.path);
  }

  private async *blockChunks(
    rule: BlocksRule,
    blocks: BlockFacts[],
    facts: EntryFacts | undefined,
  ): AsyncGenerator<Uint8Array> {
    const { limits, signal } = this.setting;
    const { bytes } = this.order;
    const scope = this.scope(facts);
    const each = Number(rule.size.evaluate(scope));
    let at = 0;
    for (let index = 0; index * each < bytes.size; index++) {
      throwIfStopped(signal);
      const size = Math.min(each, bytes.size - index * each);
      const plain = await bytes.read(index * each, size);
      const start = Math.ceil(at / rule.align) * rule.align;
      const stored = this.packBlock(
        rule,
        plain,
        { index, at: start, size, stored: 0, raw: false },
        scope,
        limits.maxEntryBytes,
      );
      if (start > at) yield new Uint8Array(start - at);
      blocks[index] = { index, at: start, size, stored: stored.bytes.length, raw: stored.raw };
      yield stored.bytes;
      at = start + stored.bytes.length;
    }
  }

  /** All steps when that is smaller and the recipe will read it so, else only those that are always taken. */
  private packBlock(
    rule: BlocksRule,
    plain: Uint8Array,
    open: BlockFacts,
    scope: Scope,
    maxPlainBytes: number,
  ): { bytes: Uint8Array; raw: boolean } {
    const always = rule.through.filter(({ when }) => when === undefined);
    const spare = rule.through.filter(({ when, codec }) => when === undefined || codec.family !== 'compression');
    for (const [steps, raw] of [
      [rule.through, false],
      [spare, true],
      [always, true],
    ] as const) {
      scope.block = open;
      this.blocks![open.index] = open;
      const chain = prepareChain(steps, { scope, plainSize: plain.length, maxPlainBytes });
      const bytes = encodeWhole(plain, chain);
      const block = { ...open, stored: bytes.length, raw: raw && always.length < rule.through.length };
      // The tables as they will tell of this block.
      this.blocks![open.index] = block;
      if (!block.raw && bytes.length >= plain.length && always.length < rule.through.length) continue;
      if (readsBack(rule, block, bytes, plain, scope, maxPlainBytes)) return { bytes, raw: block.raw };
    }
    throw new FormatError({
      code: 'layout-impossible',
      recipe: this.setting.recipe.id,
      line: rule.line,
      entry: this.order.path,
      what: `no way of packing block ${open.index} is read back`,
    });
  }
}

/** Whether a reader, who knows only what the tables say, finds the same steps. */
function readsBack(
  rule: BlocksRule,
  block: BlockFacts,
  bytes: Uint8Array,
  plain: Uint8Array,
  scope: Scope,
  maxPlainBytes: number,
): boolean {
  scope.block = block;
  const chain = prepareChain(rule.through, { scope, plainSize: plain.length, maxPlainBytes, choose: true });
  try {
    return Buffer.compare(decodeWhole(bytes, chain), plain) === 0;
  } catch {
    return false;
  }
}

/** True when a step's parameters follow where the entry lies. */
function followsPlace(step: Step): boolean {
  const follows = (formula: Formula) =>
    formula.uses.layout && ['at', 'end', 'index', 'volume', 'volume-set'].some((fact) => formula.uses.entry.has(fact));
  return Object.values(step.params).some(follows);
}

/** True when entries must be packed anew wherever they move to. */
export function chainsFollowPlace({ recipe }: DraftSetting): boolean {
  const rule = recipe.entries;
  const steps = rule.methods.flatMap((method) => rule.stepsOf(method) ?? []);
  return [...steps, ...(rule.blocks?.through ?? [])].some(followsPlace);
}

/** An unchanged entry for another place, when its bytes follow it. */
export async function repackUnchanged(
  setting: PackSetting,
  entry: number,
  facts: EntryFacts,
  plain: AsyncIterable<Uint8Array>,
): Promise<ByteSource> {
  const path = setting.archive!.entries.path(entry);
  const bytes = bufferSource(await collect(plain), path);
  const method = setting.archive!.entries.method(entry);
  const steps = setting.recipe.entries.stepsOf(method ?? 0)!;
  const made = await new Packer(
    setting,
    { base: entry, path, bytes, time: undefined, index: entry },
    method,
    steps,
    entry,
    [],
    new Map(),
  ).pack();
  return made.placed?.(facts) ?? made.stored;
}

/** Bytes of a wrap in the making; those of the entry itself are not there yet. */
function spanOfPieces(pieces: Pieces, from: number, to: number): Uint8Array {
  return pieces.bytes().slice(from, to);
}

function joinWrap(pieces: Pieces, packed: ByteSource, path: string): ByteSource {
  const parts = [...pieces.stretches()].map(({ bytes, spliced }) =>
    bytes !== undefined ? bufferSource(bytes.slice(), path) : sliceSource(packed, 0, spliced!.length, path),
  );
  return joinedSource(parts, path);
}
