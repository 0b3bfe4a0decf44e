/** What functions of formulas are about, and how many values they take. */
import { AGGREGATES } from './aggregates';
import { invalid, type Call, type Compile } from './call-targets';
import { ANY, type Piece } from './names';
import { truthy } from './value';

/** Calls that need more than the values of their arguments, with their use for messages and the reference. */
export const FILE_FUNCTIONS: Readonly<Record<string, { readonly call: string; readonly about: string }>> = {
  if: { call: 'if(condition, a, b)', about: 'a where the condition holds, else b' },
  either: {
    call: 'either(a, b)',
    about:
      'in `is`: where the field holds the value of b (or of a further one), that stays; otherwise a. For what writers of the format do in several ways',
  },
  count: {
    call: 'count(entries)',
    about:
      'how many entries, blocks, folders, items of a list, or texts of a pool; `count(list, item.kind == 2)` and `count(entries, entry.size > 0)` only those for which it holds',
  },
  ...AGGREGATES,
  start: {
    call: 'start(region or field)',
    about: 'the offset where it starts in the file (or in its unlocked region)',
  },
  length: {
    call: 'length(region or field)',
    about:
      'its stored length in bytes; `length(plain(region))` is that behind its steps, `length(volume(NAME))` that of a whole volume',
  },
  volume: {
    call: 'length(volume(NAME, number))',
    about: 'a whole volume, to be measured or hashed: `crc32(volume(data, 2))`; without a number, of a set of one',
  },
  'file-name': { call: 'file-name()', about: 'the name of the main file, such as `"words.txt.gz"`' },
  volumes: { call: 'volumes()', about: 'how many data volumes there are' },
  'block-after': {
    call: 'block-after(offset)',
    about:
      'where the block behind the one at this offset begins, in the same entry; the offset itself for the last, nothing where no block begins',
  },
  hex: { call: 'hex("0A 1B")', about: 'bytes written out' },
  'text-at': { call: 'text-at(pool, offset)', about: 'the text that starts there in a pool' },
  place: { call: 'place(pool, text)', about: 'the offset of a text in a pool; a new text is added' },
  'index-of': { call: 'index-of(pool, text)', about: 'the number of a text in a pool; a new text is added' },
  'row-where': {
    call: 'row-where(list, field, value)',
    about: 'the number of the first item whose field has the value',
  },
  before: {
    call: 'before(row, condition)',
    about: 'the nearest row before, in the same list, for which the condition holds',
  },
  after: { call: 'after(row, condition)', about: 'the nearest such row after' },
};

export function arity(call: Call, ...counts: number[]): void {
  if (counts.includes(call.args.length) && Object.keys(call.named).length === 0) return;
  const words = counts.map((count) => (count === 0 ? 'nothing' : count === 1 ? 'one value' : `${count} values`));
  throw invalid(`${call.name} takes ${words.join(' or ')}`, FILE_FUNCTIONS[call.name]?.call);
}

export function condition(call: Call, compile: Compile): Piece {
  arity(call, 3);
  const [test, yes, no] = call.args.map((arg) => compile(arg)) as [Piece, Piece, Piece];
  return {
    type: yes.type.kind === 'value' && no.type.kind === 'value' ? yes.type : ANY,
    evaluate: (scope) => (truthy(test.evaluate(scope)) ? yes : no).evaluate(scope),
  };
}
