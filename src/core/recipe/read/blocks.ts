/** Entries packed in blocks: where each block lies, and its plain bytes. */
import { FormatError, LimitError } from '../../faults';
import { truthy, type BlockFacts, type Scope } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { BlocksRule, Field, Formula, Shape } from '../model';
import { prepareChain, type Chain } from './through';

/** The most blocks of one entry. */
const MAX_BLOCKS = 1 << 20;

export interface BlockPlace extends BlockFacts {
  /** Offset behind the first block's start, in the bytes of all blocks. */
  readonly at: number;
  /** Offset in the volume, where blocks do not lie one after the other. */
  readonly place: number | undefined;
}

/**
 * How many blocks so many plain bytes make, and how many each holds; undefined where each has a size of its own.
 *
 * @throws FormatError when the size is not known
 */
export function blockCountOf(
  rule: BlocksRule,
  size: number,
  scope: Scope,
): { count: number; each: number | undefined } {
  if (rule.count !== undefined) {
    const count = wholeNumber(rule.count.evaluate(scope), 'the number of blocks');
    checkCount(count);
    return { count, each: undefined };
  }
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
  checkCount(count);
  return { count, each };
}

function checkCount(count: number): void {
  if (count <= MAX_BLOCKS) return;
  throw new LimitError({
    code: 'limit-reached',
    what: 'an entry has too many blocks',
    found: count.toLocaleString('en'),
    limit: `blocks of one entry, ${MAX_BLOCKS.toLocaleString('en')}`,
  });
}

/** All blocks of an entry. `enter` sets the row of a block, by its number, where they have a table of their own. */
export function blocksOf(rule: BlocksRule, size: number, scope: Scope, enter: (number: number) => void): BlockPlace[] {
  const { count, each } = blockCountOf(rule, size, scope);
  const blocks: BlockPlace[] = [];
  const first =
    count === 0 || rule.first === undefined ? 0 : wholeNumber(rule.first.evaluate(scope), 'the first block');
  let number = first;
  let at = 0;
  let left = size;
  for (let index = 0; index < count; index++) {
    if (rule.next !== undefined && index > 0) number = nextNumber(rule, scope, blocks[index - 1]!);
    else number = rule.number === undefined ? first + index : namedNumber(rule.number, scope, index);
    const bare: BlockPlace = { index, number, at, size: 0, stored: 0, raw: false, place: undefined };
    scope.block = bare;
    enter(number);
    const plain = each === undefined ? ownSize(rule, scope, left) : Math.min(each, size - index * each);
    left -= plain;
    // Bytes from all over the volume are put together without what is between them.
    if (rule.at === undefined) at = Math.ceil(at / rule.align) * rule.align;
    const open = { ...bare, at, size: plain };
    scope.block = open;
    const place = rule.at === undefined ? undefined : wholeNumber(rule.at.evaluate(scope), 'the offset of a block');
    const stored = wholeNumber(rule.stored.evaluate(scope), 'the stored size of a block');
    scope.block = { ...open, stored };
    const raw = isRawBlock(rule, scope);
    blocks.push({ ...open, stored, raw, place });
    at += stored;
  }
  scope.block = undefined;
  if (each === undefined && left > 0)
    throw new FormatError({
      code: 'must-differs',
      line: rule.line,
      what: 'the blocks of an entry hold fewer bytes than it has',
      expected: `${size.toLocaleString('en')} bytes`,
      found: `${(size - left).toLocaleString('en')}`,
    });
  return blocks;
}

/** The number of a block that the entry names by itself. */
function namedNumber(formula: Formula, scope: Scope, index: number): number {
  scope.block = { index, number: index, at: 0, size: 0, stored: 0, raw: false };
  return wholeNumber(formula.evaluate(scope), `the number of block ${index}`);
}

function nextNumber(rule: BlocksRule, scope: Scope, before: BlockPlace): number {
  scope.block = before;
  return wholeNumber(rule.next!.evaluate(scope), `the block that follows block ${before.number}`);
}

/** The size of one block that has its own; the last of an entry may be less full than it is large. */
function ownSize(rule: BlocksRule, scope: Scope, left: number): number {
  const size = wholeNumber(rule.size.evaluate(scope), 'the size of a block');
  return Number.isNaN(left) ? size : Math.min(size, left);
}

const tellers = new WeakMap<Shape, boolean>();

/** True for a shape that describes one block: a list of such in the row of an entry has one for each. */
export function tellsBlock(shape: Shape): boolean {
  let known = tellers.get(shape);
  if (known === undefined) {
    const formulas = shape.fields.flatMap((field) =>
      isValue(field) ? [field.is, ...field.parts.map(({ is }) => is)] : [],
    );
    tellers.set(shape, (known = formulas.some((formula) => formula?.uses.entry.has('block') === true)));
  }
  return known;
}

/** A list of numbers has a block for each of its items, and not for the shape it is in. */
const isValue = ({ kind }: Field): boolean => kind.type.kind === 'value';

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
