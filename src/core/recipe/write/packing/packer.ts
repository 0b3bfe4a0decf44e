/** Packing one entry by one method: through its chain, in blocks, inside its wrap. */
import { bufferSource, type ByteSource, type Scratch } from '../../../bytes';
import { FormatError } from '../../../faults';
import { sameValue, scopeOf, type BlockFacts, type Scope, type Value } from '../../formula/value';
import type { Method, Step } from '../../model';
import { openEntry, plainBlock, type OpenedEntry } from '../../read/entry-bytes';
import type { RowCursor } from '../../read/table';
import { encodeChunks, prepareChain, sameChain } from '../../read/through';
import { Instances } from '../evaluation/instances';
import { Draft, type DraftEntries, type DraftSetting } from '../model/draft';
import type { NewBytes, Seal, Sealed } from '../model/new-bytes';
import { Pieces } from '../rendering/pieces';
import { writeRow } from '../rendering/write-row';
import { innerOfBlock, packBlocks, resealBlocks, type OldBlock } from './blocks';
import { chainsFollowPlace, splitChain, wrapFollowsPlace } from './bound';
import { storedHashes } from './content-hashes';
import { wrappedBytes } from './wrapped';

/** A row that holds shapes knows its lengths after as many rounds as these lie in one another. */
const ROW_ROUNDS = 4;

export interface PackSetting extends DraftSetting {
  readonly scratch: Scratch;
  readonly signal: AbortSignal | undefined;
  /** The wrap a changed entry had. */
  readonly wrapOf: (base: number | undefined) => RowCursor | undefined;
}

export interface PackOrder {
  readonly base: number | undefined;
  readonly path: string;
  readonly bytes: ByteSource;
  readonly time: number | undefined;
  /** Its position in a file that is made from nothing. */
  readonly index: number;
}

export class Packer {
  private blocks: BlockFacts[] = [];
  /** A draft of this entry alone: steps and the wrap see its rows as they will be. */
  private readonly draft: Draft;
  private readonly instances: Instances;
  private readonly growing: NewBytes & { method: Method; seal: Seal | undefined };
  private before: Promise<OpenedEntry | undefined> | undefined;

  constructor(
    private readonly setting: PackSetting,
    private readonly order: PackOrder,
    method: Method,
    private readonly steps: readonly Step[],
    neighbour: number | undefined,
    data: readonly [string, Value][],
    made: Map<string, Value>,
  ) {
    const { archive } = setting;
    const { base, path, bytes, time } = order;
    this.growing = {
      base,
      path,
      method,
      plain: bytes,
      plainSize: bytes.size,
      stored: bufferSource(new Uint8Array(0), path),
      hashes: new Map(data),
      wrap: undefined,
      blocks: undefined,
      time,
      deleted: false,
      onlyMoved: false,
      made,
      seal: undefined,
    };
    const entries: DraftEntries = { count: 1, removes: false, base: () => base, fresh: () => this.growing };
    const near = neighbour === undefined ? undefined : archive!.entries.facts(neighbour);
    const volume = { set: near?.volumeSet ?? '', number: near?.volume ?? 0 };
    this.draft = new Draft(setting, entries, [volume], new Set(), base ?? archive?.entries.count ?? order.index);
    this.draft.entryVolume[0] = 0;
    this.draft.scope.unsized = true;
    this.instances = new Instances(this.draft);
    this.draft.regionValue = (index) => this.regionValue(index);
  }

  async pack(): Promise<NewBytes> {
    const { setting, steps, growing } = this;
    const rule = setting.recipe.entries;
    const { outer, inner } = splitChain(steps);
    const bound = outer.length > 0 || chainsFollowPlace({ ...rule, methods: [] });
    const plain = rule.blocks === undefined ? this.order.bytes : await this.packBlocks();
    const under = await this.encoded(plain, inner, this.scope());
    const packed = await this.encoded(under, outer, this.scope());
    growing.hashes = new Map([...growing.hashes, ...(await storedHashes(setting, packed, steps, () => this.scope()))]);
    growing.stored = rule.wrap === undefined ? packed : this.wrapped(packed);
    growing.blocks = rule.blocks === undefined ? undefined : this.blocks;
    const seal = bound
      ? this.sealing(plain, under, outer, inner)
      : wrapFollowsPlace(rule)
        ? this.asItIs(packed)
        : undefined;
    return { ...growing, seal };
  }

  /** Does the outer steps again, for another place. */
  private sealing(joinedBlocks: ByteSource, under: ByteSource, outer: readonly Step[], inner: readonly Step[]): Seal {
    const rule = this.setting.recipe.entries.blocks;
    const { limits, scratch } = this.setting;
    if (rule === undefined || !chainsFollowPlace({ ...this.setting.recipe.entries, methods: [] }))
      return async (scope) => ({ packed: await this.encoded(under, outer, scope), blocks: this.blocks });
    // Blocks have been packed for no place in particular: their outer steps are taken off again.
    const facts = [...this.blocks];
    const here = this.scope();
    return async (scope): Promise<Sealed> => {
      const plain = await joinedBlocks.read(0, joinedBlocks.size);
      const blocks = facts.map((one) => ({
        facts: one,
        inner: innerOfBlock(rule, one, plain.subarray(one.at, one.at + one.stored), { ...here }, limits.maxEntryBytes),
      }));
      const resealed: BlockFacts[] = [];
      const chunks = resealBlocks(
        rule,
        blocks,
        scope,
        limits.maxEntryBytes,
        (block) => (resealed[block.index] = block),
      );
      const joined = await scratch.keep(chunks, this.order.path);
      const packed = await this.encoded(await this.encoded(joined, inner, scope), outer, scope);
      return { packed, blocks: resealed };
    };
  }

  /** The scope of the file around it, without the entry. */
  get fileScope(): Scope {
    return { ...this.draft.scope };
  }

  private asItIs(packed: ByteSource): Seal {
    return async () => ({ packed, blocks: this.blocks });
  }

  private scope(): Scope {
    const rule = this.setting.recipe.entries;
    const { scope } = this.draft;
    scope.fields = undefined;
    scope.entry = this.draft.entryFacts(0);
    scope.rows = [rule.each, ...rule.beside].map((binding, i) => this.instances.rowOf(0, binding, i));
    scope.own = this.growing.wrap ?? (rule.wrap === undefined ? undefined : this.instances.wrapOf(0, this.oldWrap()));
    const folder = this.draft.folderOfEntry(0);
    scope.folder = folder < 0 ? undefined : this.draft.folderFacts(folder);
    return scope;
  }

  private oldWrap(): RowCursor | undefined {
    return this.setting.wrapOf(this.order.base);
  }

  /** Regions as the old archive has them, or as a new one will begin. */
  private regionValue(index: number): Value {
    const { archive, recipe } = this.setting;
    if (archive !== undefined) return archive.facts.region(index);
    const { holds } = recipe.regions[index]!;
    if (typeof holds !== 'object' || holds.type.kind !== 'shape') return undefined;
    return this.instances.root(holds.type.shape, index);
  }

  /** The method the row states before anything is packed; undefined when it is none the recipe knows. */
  statedMethod(): Method {
    const rule = this.setting.recipe.entries;
    try {
      const stated = rule.methodOf(this.scope());
      return rule.stepsOf(stated) === undefined ? undefined : stated;
    } catch (error) {
      if (error instanceof FormatError) return undefined;
      throw error;
    }
  }

  /** True when a reader of the new row would find the method that was used. */
  statesMethod(): boolean {
    const rule = this.setting.recipe.entries;
    if (rule.hasOneMethod) return true;
    this.draft.graph.begin();
    this.writeRows();
    const stated = rule.methodOf(this.scope());
    return sameValue(stated, this.growing.method) || rule.stepsOf(stated) === this.steps;
  }

  /** Writes the rows to nowhere, so that lengths of their fields are known. */
  private writeRows(): void {
    const rule = this.setting.recipe.entries;
    if (rule.each.shape.fields.every(({ kind }) => kind.type.kind === 'value')) return;
    for (let round = 0; round < ROW_ROUNDS; round++) {
      this.draft.graph.begin();
      const scope = this.scope();
      scope.unsized = round === 0;
      try {
        writeRow(rule.each.shape, this.instances.rowOf(0, rule.each, 0)!, new Pieces(0, () => undefined), scope);
      } catch (error) {
        // What follows the layout is not known yet; what can be known is.
        if (!(error instanceof FormatError)) throw error;
        scope.outer.length = 0;
      }
    }
  }

  /** The shape around the packed bytes, with what it says of them. */
  private wrapped(packed: ByteSource): ByteSource {
    const { growing, instances, draft, setting } = this;
    growing.stored = packed;
    const { fields, bytes } = wrappedBytes({
      draft,
      instances,
      out: 0,
      packed,
      found: this.oldWrap(),
      maxRounds: setting.limits.maxRounds,
      enter: () => this.scope(),
      grows: (fields, size) => {
        growing.wrap = fields;
        growing.stored = { ...packed, size };
      },
    });
    growing.wrap = fields;
    return bytes;
  }

  private async encoded(plain: ByteSource, steps: readonly Step[], scope: Scope): Promise<ByteSource> {
    if (steps.length === 0) return plain;
    const { limits, scratch, signal } = this.setting;
    const chain = prepareChain(steps, { scope, plainSize: plain.size, maxPlainBytes: limits.maxEntryBytes });
    return scratch.keep(encodeChunks(plain, chain, { maxStoredBytes: limits.maxRegionBytes, signal }), this.order.path);
  }

  private async packBlocks(): Promise<ByteSource> {
    const { setting, growing } = this;
    const { scratch, limits, recipe, signal } = setting;
    this.blocks = [];
    growing.blocks = this.blocks;
    const scope = this.scope();
    const chunks = packBlocks(
      {
        rule: recipe.entries.blocks!,
        bytes: this.order.bytes,
        path: this.order.path,
        recipe: recipe.id,
        maxPlainBytes: limits.maxEntryBytes,
        signal,
        old: (index, now) => this.oldBlock(index, now),
        known: (block) => (this.blocks[block.index] = block),
      },
      scope,
    );
    return scratch.keep(chunks, this.order.path);
  }

  /** The block of the entry before it changed, when the chain of the entry leaves blocks where they are. */
  private async oldBlock(index: number, scope: Scope): Promise<OldBlock | undefined> {
    const { archive, limits } = this.setting;
    const { base } = this.order;
    if (base === undefined || archive === undefined || this.steps.length > 0) return undefined;
    this.before ??= openEntry(archive, base).catch(() => undefined);
    const opened = await this.before;
    const facts = opened?.blocks?.[index];
    if (opened === undefined || facts === undefined || opened.chain.steps.length > 0) return undefined;
    if (facts.at + facts.stored > opened.packed.size) return undefined;
    const stored = await opened.packed.read(facts.at, facts.stored);
    try {
      const { plain, chain } = plainBlock(archive, opened, facts, stored);
      // The same steps, with the parameters they have now.
      const steps = chain.steps.map(({ step }) => step);
      const now = prepareChain(steps, { scope: { ...scope, block: facts }, maxPlainBytes: limits.maxEntryBytes });
      return sameChain(chain, now) ? { facts, stored, plain } : undefined;
    } catch {
      return undefined;
    }
  }
}

/** What formulas see that look at the file alone: as it was found, or as a new one will begin. */
export function fileScope(setting: PackSetting): Scope {
  if (setting.archive !== undefined) return scopeOf(setting.archive.facts);
  const bytes = bufferSource(new Uint8Array(0));
  const order: PackOrder = { base: undefined, path: '', bytes, time: undefined, index: 0 };
  return new Packer(setting, order, 0, [], undefined, [], new Map()).fileScope;
}
