/** Entries packed in blocks: where each block lies, and its plain bytes. */
import { FormatError, LimitError } from '../../faults';
import { truthy, wholeNumber, type BlockFacts, type Scope } from '../formula/value';
import type { BlocksRule } from '../model';
import { prepareChain, type Chain } from './through';

/** The most blocks of one entry. */
const MAX_BLOCKS = 1 << 20;

export interface BlockPlace extends BlockFacts {
  /** Offset behind the first block's start. */
  readonly at: number;
}

/** How many blocks so many plain bytes make. @throws FormatError when the size is not known */
export function blockCountOf(rule: BlocksRule, size: number, scope: Scope): { count: number; each: number } {
  const each = wholeNumber(rule.size.evaluate(scope), 'the size of a block');
  if (each === 0 || Number.isNaN(size))
    throw new FormatError({
      code: 'must-differs',
      line: rule.line,
      what: each === 0 ? 'blocks of no bytes' : 'blocks need the plain size of the entry',
      expected: each === 0 ? 'a block size above 0' : '`size:` in entries',
      found: each === 0 ? '0' : 'unknown',
    });
  const count = Math.ceil(size / each);
  if (count <= MAX_BLOCKS) return { count, each };
  throw new LimitError({
    code: 'limit-reached',
    what: 'an entry has too many blocks',
    found: count.toLocaleString('en'),
    limit: `blocks of one entry, ${MAX_BLOCKS.toLocaleString('en')}`,
  });
}

/** All blocks of an entry. `enter` sets the row of a block where they have a table of their own. */
export function blocksOf(rule: BlocksRule, size: number, scope: Scope, enter: (index: number) => void): BlockPlace[] {
  const { count, each } = blockCountOf(rule, size, scope);
  const blocks: BlockPlace[] = [];
  let at = 0;
  for (let index = 0; index < count; index++) {
    const plain = Math.min(each, size - index * each);
    at = Math.ceil(at / rule.align) * rule.align;
    const open = { index, at, size: plain, stored: 0, raw: false };
    scope.block = open;
    enter(index);
    const stored = wholeNumber(rule.stored.evaluate(scope), 'the stored size of a block');
    scope.block = { ...open, stored };
    const raw = isRawBlock(rule, scope);
    const place = { ...open, stored, raw };
    blocks.push(place);
    at += stored;
  }
  scope.block = undefined;
  return blocks;
}

/** A block is raw when its steps have conditions, and none of these holds. */
function isRawBlock(rule: BlocksRule, scope: Scope): boolean {
  const conditions = rule.through.flatMap(({ when }) => (when === undefined ? [] : [when]));
  return conditions.length > 0 && conditions.every((when) => !truthy(when.evaluate(scope)));
}

/** The chain of one block. */
export function blockChain(rule: BlocksRule, block: BlockFacts, scope: Scope, maxPlainBytes: number): Chain {
  scope.block = block;
  const chain = prepareChain(rule.through, { scope, plainSize: block.size, maxPlainBytes, choose: true });
  scope.block = undefined;
  return chain;
}
