/** Entries whose stored bytes follow from where they lie: only the layers that do are made again when they move. */
import { collect, type ByteSource } from '../../../bytes';
import type { BlockFacts, EntryFacts, Scope, Value } from '../../formula/value';
import type { Step } from '../../model';
import { blockRows, entryScope, openEntry, type OpenedEntry } from '../../read/entry-bytes';
import type { RowCursor } from '../../read/table';
import { decodeChunks, decodeWhole, encodeWhole, prepareChain, type Chain } from '../../read/through';
import type { Instances } from '../evaluation/instances';
import type { Draft, DraftEntries } from '../model/draft';
import type { NewBytes, Sealed } from '../model/new-bytes';
import { innerOfBlock, resealBlocks } from './blocks';
import { bytesFollowPlace, chainsFollowPlace, splitChain } from './bound';
import { storedHashes } from './content-hashes';
import type { PackSetting } from './packer';
import { wrappedBytes } from './wrapped';

/** Entries of the new file, of which some are packed for another place. */
export interface ResealedEntries extends DraftEntries {
  /** Sets the bytes of an entry. */
  reseal(out: number, bytes: NewBytes): void;
}

/** An entry whose plain bytes stay, wherever these come to lie; its outer layers are done again where they follow that. */
export async function movedEntry(setting: PackSetting, base: number, opened: OpenedEntry): Promise<NewBytes> {
  const { path, method, size } = setting.archive!.entries.facts(base);
  return {
    base,
    path,
    method,
    plain: undefined,
    plainSize: size,
    stored: opened.stored,
    hashes: new Map(await storedHashes(setting, opened.packed, stepsOf(setting, method), () => opened.scope)),
    wrap: opened.wrap?.fields,
    blocks: withoutPlaces(opened.blocks),
    time: undefined,
    deleted: false,
    onlyMoved: true,
    made: new Map(),
    seal: bytesFollowPlace(setting.recipe) ? (scope) => resealed(setting, opened, method, scope) : undefined,
  };
}

export class Resealer {
  /** What the stored bytes of each entry were last made for. */
  private readonly made = new Map<number, string>();

  constructor(
    private readonly setting: PackSetting,
    private readonly draft: Draft,
    private readonly instances: Instances,
    private readonly entries: ResealedEntries,
  ) {}

  /**
   * Makes again what follows from where entries have come to lie.
   *
   * @returns whether any bytes are others than before
   */
  async reseal(): Promise<boolean> {
    if (!bytesFollowPlace(this.setting.recipe)) return false;
    let changed = false;
    for (let out = 0; out < this.entries.count; out++) {
      const fresh = this.entries.fresh(out);
      if (fresh !== undefined && fresh.seal === undefined) continue;
      if (this.draft.isMarker(out)) continue;
      const scope = this.instances.entryScope(out);
      const key = this.keyOf(scope, this.draft.entryFacts(out));
      const before = this.made.get(out) ?? (fresh === undefined ? this.oldKey(out) : undefined);
      if (key === before) continue;
      this.made.set(out, key);
      await this.seal(out, fresh ?? (await this.untouched(out)));
      changed = true;
    }
    return changed;
  }

  /** Everything of an entry's place that its bytes may follow, as text. */
  private keyOf(scope: Scope, facts: EntryFacts): string {
    const { recipe, limits } = this.setting;
    const method = facts.method ?? 0;
    const { outer } = splitChain(recipe.entries.stepsOf(method) ?? []);
    const chain = prepareChain(outer, { scope, maxPlainBytes: limits.maxEntryBytes });
    const inside = chainsFollowPlace({ ...recipe.entries, methods: [] }) || recipe.entries.wrap !== undefined;
    const place = inside ? `${facts.at},${facts.index},${facts.volume},${facts.folderIndex},${facts.firstBlock}` : '';
    return `${paramsOf(chain)};${place}`;
  }

  private oldKey(out: number): string {
    const { archive } = this.setting;
    const base = this.entries.base(out)!;
    return this.keyOf(entryScope(archive!, base), archive!.entries.facts(base));
  }

  private async seal(out: number, bytes: NewBytes): Promise<void> {
    const { setting, draft, instances, entries } = this;
    const { recipe, limits } = setting;
    const scope = instances.entryScope(out);
    scope.own ??= bytes.wrap;
    const { packed, blocks } = await bytes.seal!(scope);
    const hashes = new Map(bytes.hashes);
    const steps = stepsOf(setting, bytes.method);
    for (const [name, value] of await storedHashes(setting, packed, steps, () => scope)) hashes.set(name, value);
    const sealed: NewBytes = { ...bytes, stored: packed, blocks, hashes };
    entries.reseal(out, sealed);
    if (recipe.entries.wrap === undefined) return;
    const { fields, bytes: stored } = wrappedBytes({
      draft,
      instances,
      out,
      packed,
      found: setting.wrapOf(bytes.base) ?? this.wraps.get(out),
      maxRounds: limits.maxRounds,
      enter: () => instances.entryScope(out),
      grows: (wrap, size) => {
        sealed.wrap = wrap;
        sealed.stored = { ...packed, size };
      },
    });
    sealed.wrap = fields;
    sealed.stored = stored;
  }
  private readonly wraps = new Map<number, RowCursor>();

  /** An entry as it was found, with the way to do its outer layers again. */
  private async untouched(out: number): Promise<NewBytes> {
    const { archive } = this.setting;
    const base = this.entries.base(out)!;
    const opened = await openEntry(archive!, base);
    if (opened.wrap !== undefined) this.wraps.set(out, opened.wrap.fields as RowCursor);
    return movedEntry(this.setting, base, opened);
  }
}

/** The stored bytes for another place: of each stretch, only the layers that follow it are done again. */
async function resealed(setting: PackSetting, opened: OpenedEntry, method: Value, scope: Scope): Promise<Sealed> {
  const { recipe, limits, scratch } = setting;
  const rule = recipe.entries;
  const steps = rule.stepsOf(method ?? 0) ?? [];
  const maxPlainBytes = limits.maxEntryBytes;
  const { blocks } = opened;
  if (rule.blocks === undefined || blocks === undefined || !chainsFollowPlace({ ...rule, methods: [] })) {
    const { outer } = splitChain(steps);
    return { packed: await recoded(setting, opened.packed, outer, opened.scope, scope), blocks: withoutPlaces(blocks) };
  }
  const joined = await collect(decodeChunks(opened.packed, opened.chain, { maxStoredBytes: limits.maxRegionBytes }));
  const enter = blockRows(setting.archive!, opened.scope);
  const inner = blocks.map((facts) => {
    enter(facts.number);
    const stored = joined.subarray(facts.at, facts.at + facts.stored);
    return { facts, inner: innerOfBlock(rule.blocks!, facts, stored, opened.scope, maxPlainBytes) };
  });
  const again: BlockFacts[] = [];
  const chunks = resealBlocks(rule.blocks, inner, scope, maxPlainBytes, (block) => (again[block.index] = block));
  const plain = await collect(chunks);
  const chain = prepareChain(steps, { scope, plainSize: plain.length, maxPlainBytes });
  return { packed: await scratch.keep([encodeWhole(plain, chain)], opened.stored.name), blocks: again };
}

/** The same bytes under the same steps with other parameters. */
async function recoded(
  setting: PackSetting,
  packed: ByteSource,
  steps: readonly Step[],
  from: Scope,
  to: Scope,
): Promise<ByteSource> {
  if (steps.length === 0) return packed;
  const { limits, scratch, signal } = setting;
  const maxPlainBytes = limits.maxEntryBytes;
  const off = prepareChain(steps, { scope: from, maxPlainBytes });
  const on = prepareChain(steps, { scope: to, maxPlainBytes });
  if (!steps.every(({ codec }) => codec.decodeStream !== undefined && codec.encodeStream !== undefined)) {
    const plain = decodeWhole(await packed.read(0, packed.size), off);
    return scratch.keep([encodeWhole(plain, on)], packed.name);
  }
  let chunks: AsyncIterable<Uint8Array> = decodeChunks(packed, off, {
    maxStoredBytes: limits.maxRegionBytes,
    signal,
  });
  for (const { step, context } of [...on.steps].reverse()) chunks = step.codec.encodeStream!(chunks, context);
  return scratch.keep(chunks, packed.name);
}

const stepsOf = ({ recipe }: PackSetting, method: Value): readonly Step[] => recipe.entries.stepsOf(method ?? 0) ?? [];

/** Where blocks were found they no longer are. */
function withoutPlaces(blocks: readonly BlockFacts[] | undefined): readonly BlockFacts[] | undefined {
  return blocks?.map((block) => ({ ...block, place: undefined }));
}

function paramsOf({ steps }: Chain): string {
  return steps
    .flatMap(({ context }) => Object.values(context.params))
    .map((value) => (value instanceof Uint8Array ? Buffer.from(value).toString('hex') : String(value)))
    .join();
}
