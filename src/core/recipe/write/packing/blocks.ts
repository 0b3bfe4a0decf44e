/** Entries in blocks: each packed by itself, as it was where its plain bytes are as they were. */
import type { ByteSource } from '../../../bytes';
import { FormatError, throwIfStopped } from '../../../faults';
import type { BlockFacts, Scope } from '../../formula/value';
import type { BlocksRule } from '../../model';
import { blockCountOf } from '../../read/blocks';
import { decodeWhole, encodeWhole, prepareChain } from '../../read/through';
import { splitChain } from './bound';

/** A block of the archive that is rebuilt: its stored bytes, and what formulas saw of it. */
export interface OldBlock {
  readonly facts: BlockFacts;
  readonly stored: Uint8Array;
  readonly plain: Uint8Array;
}

export interface BlockSetting {
  readonly rule: BlocksRule;
  readonly bytes: ByteSource;
  readonly path: string;
  readonly recipe: string;
  readonly maxPlainBytes: number;
  readonly signal: AbortSignal | undefined;
  /** The block that had the same number, when its steps had the same parameters; undefined where there was none. */
  readonly old: (index: number, scope: Scope) => Promise<OldBlock | undefined>;
  /** Told of the facts of a block before its steps are worked out, for the tables that tell them. */
  readonly known: (block: BlockFacts) => void;
}

/**
 * Packs all blocks of an entry in order.
 *
 * @throws FormatError `must-differs` for blocks of no bytes, `limit-reached` for too many
 */
export async function* packBlocks(setting: BlockSetting, scope: Scope): AsyncGenerator<Uint8Array> {
  const { rule, bytes, signal } = setting;
  // Where each block has a size of its own, one holds all.
  const { count, each = bytes.size } =
    rule.count === undefined ? blockCountOf(rule, bytes.size, scope) : { count: bytes.size === 0 ? 0 : 1 };
  let at = 0;
  for (let index = 0; index < count; index++) {
    throwIfStopped(signal);
    const size = Math.min(each, bytes.size - index * each);
    const plain = await bytes.read(index * each, size);
    const start = Math.ceil(at / rule.align) * rule.align;
    const open: BlockFacts = { index, number: index, at: start, size, stored: 0, raw: false };
    const old = await setting.old(index, scope);
    const kept =
      old === undefined || Buffer.compare(old.plain, plain) !== 0 ? undefined : keptBlock(setting, old, open, scope);
    const stored = kept ?? packBlock(setting, plain, open, scope);
    if (start > at) yield new Uint8Array(start - at);
    setting.known({ ...open, stored: stored.bytes.length, raw: stored.raw });
    yield stored.bytes;
    at = start + stored.bytes.length;
  }
}

/** The stored bytes a block had, when a reader of the new tables finds the same plain bytes in them. */
function keptBlock(
  setting: BlockSetting,
  { stored, plain, facts }: OldBlock,
  open: BlockFacts,
  scope: Scope,
): { bytes: Uint8Array; raw: boolean } | undefined {
  const block = { ...open, stored: stored.length, raw: facts.raw };
  setting.known(block);
  return readsBack(setting, block, stored, plain, scope) ? { bytes: stored, raw: facts.raw } : undefined;
}

/** All steps when that is smaller and the recipe will read it so, else only those that are always taken. */
function packBlock(
  setting: BlockSetting,
  plain: Uint8Array,
  open: BlockFacts,
  scope: Scope,
): { bytes: Uint8Array; raw: boolean } {
  const { rule, maxPlainBytes } = setting;
  const always = rule.through.filter(({ when }) => when === undefined);
  const spare = rule.through.filter(({ when, codec }) => when === undefined || codec.family !== 'compression');
  for (const [steps, raw] of [
    [rule.through, false],
    [spare, true],
    [always, true],
  ] as const) {
    scope.block = open;
    setting.known(open);
    const chain = prepareChain(steps, { scope, plainSize: plain.length, maxPlainBytes });
    const bytes = encodeWhole(plain, chain);
    const block = { ...open, stored: bytes.length, raw: raw && always.length < rule.through.length };
    // The tables as they will tell of this block.
    setting.known(block);
    if (!block.raw && bytes.length >= plain.length && always.length < rule.through.length) continue;
    if (readsBack(setting, block, bytes, plain, scope)) return { bytes, raw: block.raw };
  }
  throw new FormatError({
    code: 'layout-impossible',
    recipe: setting.recipe,
    line: rule.line,
    entry: setting.path,
    what: `no way of packing block ${open.index} is read back`,
  });
}

/** Whether a reader, who knows only what the tables say, finds the same plain bytes. */
function readsBack(
  { rule, maxPlainBytes }: BlockSetting,
  block: BlockFacts,
  bytes: Uint8Array,
  plain: Uint8Array,
  scope: Scope,
): boolean {
  scope.block = block;
  try {
    const chain = prepareChain(rule.through, { scope, plainSize: plain.length, maxPlainBytes, choose: true });
    return Buffer.compare(decodeWhole(bytes, chain), plain) === 0;
  } catch {
    return false;
  }
}

/** The same blocks with the steps that follow their place done again. */
export function* resealBlocks(
  rule: BlocksRule,
  blocks: readonly { readonly facts: BlockFacts; readonly inner: Uint8Array }[],
  scope: Scope,
  maxPlainBytes: number,
  known: (block: BlockFacts) => void,
): Generator<Uint8Array> {
  const { outer } = splitChain(rule.through);
  let at = 0;
  for (const { facts, inner } of blocks) {
    const start = Math.ceil(at / rule.align) * rule.align;
    const open = { ...facts, at: start };
    scope.block = open;
    const chain = prepareChain(outer, { scope, plainSize: inner.length, maxPlainBytes, choose: true });
    const bytes = encodeWhole(inner, chain);
    known({ ...open, stored: bytes.length });
    if (start > at) yield new Uint8Array(start - at);
    yield bytes;
    at = start + bytes.length;
  }
}

/** A block without its outer steps. */
export function innerOfBlock(
  rule: BlocksRule,
  facts: BlockFacts,
  stored: Uint8Array,
  scope: Scope,
  maxPlainBytes: number,
): Uint8Array {
  const { outer } = splitChain(rule.through);
  scope.block = facts;
  return decodeWhole(stored, prepareChain(outer, { scope, maxPlainBytes, choose: true }));
}
