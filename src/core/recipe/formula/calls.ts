/** Calls in formulas: the plain functions, those that look at the file, and hashes. */
import { FormatError } from '../../faults';
import type { Expression } from '../language/expression';
import type { FieldType, Uses } from '../model';
import { aggregate, AGGREGATES } from './aggregates';
import { wrongType } from './arithmetic';
import {
  fieldNamed,
  invalid,
  isRegion,
  namesForContent,
  regionNamed,
  volumeNamed,
  type Call,
  type Compile,
} from './call-targets';
import { PLAIN_FUNCTIONS, type PlainFunction } from './functions';
import { hashCall } from './hash-calls';
import { ANY, BYTES, NUMBER, TEXT, type Names, type Piece } from './names';
import { namesOnly, neighbourFinder } from './neighbours';
import {
  isFields,
  isList,
  isPool,
  sameValue,
  showValue,
  truthy,
  wholeNumber,
  type PoolValue,
  type Scope,
} from './value';

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

/** @throws FormatError `recipe-invalid` */
export function compileCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  const plain = Object.hasOwn(PLAIN_FUNCTIONS, call.name) ? PLAIN_FUNCTIONS[call.name] : undefined;
  if (plain !== undefined) return plainCall(call, plain, compile);
  switch (call.name) {
    case 'if':
      return condition(call, compile);
    case 'either':
      return either(call, compile);
    case 'count':
      return call.args.length > 1 ? aggregate(call, names, uses, compile) : countCall(call, names, uses, compile);
    case 'sum':
    case 'least':
    case 'greatest':
      return aggregate(call, names, uses, compile);
    case 'start':
    case 'length':
      return placeCall(call, names, uses, compile);
    case 'volumes':
      arity(call, 0);
      uses.layout = uses.place = true;
      return { type: NUMBER, evaluate: (scope) => scope.file.volumeCount() };
    case 'file-name':
      arity(call, 0);
      return { type: TEXT, evaluate: (scope) => scope.file.fileName() };
    case 'block-after':
      return blockAfter(call, uses, compile);
    case 'hex':
      return hexCall(call);
    case 'text-at':
    case 'place':
    case 'index-of':
      return poolCall(call, names, uses, compile);
    case 'row-where':
      return rowWhere(call, names, uses, compile);
    case 'before':
    case 'after':
      return neighbour(call, names, uses, compile);
    case 'plain':
    case 'stored':
    case 'span':
    case 'bytes':
    case 'blanked':
    case 'behind':
    case 'volume':
      throw invalid(
        `${call.name}(…) gives bytes of the file, and they can only be hashed`,
        `such as crc32(${call.name}(…))`,
      );
    default:
      return hashCall(call, names, uses, compile, [...Object.keys(FILE_FUNCTIONS), ...Object.keys(PLAIN_FUNCTIONS)]);
  }
}

function arity(call: Call, ...counts: number[]): void {
  if (counts.includes(call.args.length) && Object.keys(call.named).length === 0) return;
  const words = counts.map((count) => (count === 0 ? 'nothing' : count === 1 ? 'one value' : `${count} values`));
  throw invalid(`${call.name} takes ${words.join(' or ')}`, FILE_FUNCTIONS[call.name]?.call);
}

function plainCall(call: Call, plain: PlainFunction, compile: Compile): Piece {
  if (call.args.length < plain.least || call.args.length > plain.most || Object.keys(call.named).length > 0)
    throw invalid(`${call.name} is called with ${call.args.length} values`, plain.call);
  const args = call.args.map((arg, i): Piece => {
    const words = plain.words?.[i];
    if (words === undefined) return compile(arg);
    const word = arg.kind === 'name' ? arg.name : arg.kind === 'text' ? arg.value : '';
    if (!words.includes(word))
      throw invalid(`${call.name} does not know ${word || 'this'}`, `one of ${words.join(', ')}`);
    return { type: TEXT, evaluate: () => word };
  });
  const types: Readonly<Record<PlainFunction['gives'], FieldType>> = {
    number: NUMBER,
    text: TEXT,
    bytes: BYTES,
    any: ANY,
  };
  const [a, b] = args;
  const type = types[plain.gives];
  if (args.length === 1) return { type, evaluate: (scope) => plain.compute([a!.evaluate(scope)]) };
  if (args.length === 2) return { type, evaluate: (scope) => plain.compute([a!.evaluate(scope), b!.evaluate(scope)]) };
  return { type, evaluate: (scope) => plain.compute(args.map((arg) => arg.evaluate(scope))) };
}

function condition(call: Call, compile: Compile): Piece {
  arity(call, 3);
  const [test, yes, no] = call.args.map((arg) => compile(arg)) as [Piece, Piece, Piece];
  return {
    type: yes.type.kind === 'value' && no.type.kind === 'value' ? yes.type : ANY,
    evaluate: (scope) => (truthy(test.evaluate(scope)) ? yes : no).evaluate(scope),
  };
}

function either(call: Call, compile: Compile): Piece {
  if (call.args.length < 2 || Object.keys(call.named).length > 0)
    throw invalid('either takes two values or more', FILE_FUNCTIONS.either!.call);
  const [first, ...others] = call.args.map((arg) => compile(arg)) as [Piece, ...Piece[]];
  return {
    type: others.every(({ type }) => type.kind === 'value') ? first.type : ANY,
    evaluate: (scope) => {
      const { found } = scope;
      if (found !== undefined) for (const other of others) if (sameValue(other.evaluate(scope), found)) return found;
      return first.evaluate(scope);
    },
  };
}

function countCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 1);
  const [of] = call.args;
  const word = of?.kind === 'name' ? of.name : '';
  uses.layout = true;
  // A field that can be counted comes before the word; a mere number of that name does not.
  const sibling = word === '' ? -1 : (names.shape?.indexOf(word) ?? -1);
  if (sibling >= 0 && names.shape!.fields[sibling]!.kind.type.kind !== 'value') return itemCount(compile(of!));
  // Lists of the row itself stay as they are, wherever it lies.
  uses.place ||= ['entries', 'blocks', 'folders'].includes(word) || isInRegion(of!, names);
  if (word === 'entries') return { type: NUMBER, evaluate: (scope) => scope.file.entryCount() };
  if (word === 'blocks') return { type: NUMBER, evaluate: (scope) => scope.file.blockCount() };
  if (word === 'folders') return { type: NUMBER, evaluate: (scope) => scope.file.folderCount() };
  return itemCount(compile(of!, namesForContent(of!, names)));
}

function itemCount(list: Piece): Piece {
  if (!['list', 'pool', 'any'].includes(list.type.kind))
    throw invalid('count wants entries, blocks, folders, a repeated field or a pool', 'count(entries)');
  return {
    type: NUMBER,
    evaluate: (scope) => {
      const value = list.evaluate(scope);
      return isPool(value) ? value.count : isList(value) ? value.length : 0;
    },
  };
}

function placeCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 1);
  uses.layout = true;
  const [of] = call.args;
  if (of?.kind === 'call' && of.name === 'plain' && of.args.length === 1 && call.name === 'length') {
    const region = regionNamed(of.args[0]!, names, 'plain');
    uses.place = true;
    return { type: NUMBER, evaluate: (scope) => scope.file.plainLength(region) };
  }
  if (of?.kind === 'call' && of.name === 'volume' && call.name === 'length') {
    const volume = volumeNamed(of, names, compile);
    uses.place = uses.end = true;
    return {
      type: NUMBER,
      evaluate: (scope) => {
        const index = volume(scope);
        return index < 0 ? 0 : scope.file.volumeSize(index);
      },
    };
  }
  const field = isRegion(of!, names, call.name) ? undefined : fieldNamed(of!, names, uses, compile);
  const start = call.name === 'start';
  if (field === undefined || start) uses.place = true;
  if (field !== undefined) {
    const { index } = field;
    return {
      type: NUMBER,
      evaluate: (scope) => {
        const fields = field.of(scope);
        return fields === undefined ? 0 : start ? fields.startOf(index) : fields.lengthOf(index);
      },
    };
  }
  const region = regionNamed(of!, names, call.name);
  return start
    ? { type: NUMBER, evaluate: (scope) => scope.file.start(region) }
    : { type: NUMBER, evaluate: (scope) => scope.file.length(region) };
}

function blockAfter(call: Call, uses: Uses, compile: Compile): Piece {
  arity(call, 1);
  uses.layout = uses.place = true;
  const at = compile(call.args[0]!);
  return {
    type: NUMBER,
    evaluate: (scope) => scope.file.blockAfter(wholeNumber(at.evaluate(scope), 'the offset of a block')),
  };
}

function hexCall(call: Call): Piece {
  arity(call, 1);
  const [text] = call.args;
  if (text?.kind !== 'text' || !/^([0-9a-fA-F]{2}\s*)*$/.test(text.value))
    throw invalid('hex wants a text of hex digits', 'hex("0A 1B")');
  const bytes = new Uint8Array(Buffer.from(text.value.replace(/\s/g, ''), 'hex'));
  return { type: BYTES, evaluate: () => bytes };
}

function poolCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 2);
  const pool = compile(call.args[0]!, namesForContent(call.args[0]!, names));
  if (pool.type.kind !== 'pool' && pool.type.kind !== 'any')
    throw invalid(`${call.name} wants a pool`, FILE_FUNCTIONS[call.name]!.call);
  const value = compile(call.args[1]!);
  const poolOf = (scope: Scope): PoolValue => {
    const found = pool.evaluate(scope);
    if (isPool(found)) return found;
    throw wrongType(call.name, 'a pool', found);
  };
  if (call.name === 'text-at')
    return { type: TEXT, evaluate: (scope) => poolOf(scope).textAt(wholeNumber(value.evaluate(scope), 'the offset')) };
  uses.layout = uses.place = true;
  const textOf = (scope: Scope) => {
    const text = value.evaluate(scope);
    if (typeof text === 'string') return text;
    throw wrongType(call.name, 'a text', text);
  };
  return call.name === 'place'
    ? { type: NUMBER, evaluate: (scope) => poolOf(scope).place(textOf(scope), scope.found) }
    : { type: NUMBER, evaluate: (scope) => poolOf(scope).indexOf(textOf(scope), scope.found) };
}

/** True when a path starts at a region. */
function isInRegion(path: Expression, names: Names): boolean {
  let root = path;
  while (root.kind === 'member' || root.kind === 'index') root = root.of;
  if (root.kind !== 'name' || (names.shape?.indexOf(root.name) ?? -1) >= 0) return false;
  return names.regions.has(root.name) && !names.rows.some((row) => row.name === (root as { name: string }).name);
}

function rowWhere(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 3);
  uses.layout = true;
  // Lists of the row itself stay as they are, wherever it lies.
  uses.place ||= isInRegion(call.args[0]!, names);
  const list = compile(call.args[0]!);
  const field = call.args[1]!.kind === 'name' ? call.args[1]!.name : '';
  const wanted = compile(call.args[2]!);
  if (list.type.kind === 'list' && list.type.of.kind === 'shape' && list.type.of.shape.indexOf(field) < 0)
    throw invalid(`shape ${list.type.of.shape.name} has no field ${field}`);
  return {
    type: NUMBER,
    evaluate: (scope) => {
      const items = list.evaluate(scope);
      const value = wanted.evaluate(scope);
      const same = (index: number) => {
        const item = isList(items) ? items.at(index) : undefined;
        return isFields(item) && sameValue(item.get(item.shape.indexOf(field)), value);
      };
      const count = isList(items) ? items.length : 0;
      // What was found is right among several that are alike.
      if (typeof scope.found === 'number' && scope.found < count && same(scope.found)) return scope.found;
      for (let i = 0; i < count; i++) if (same(i)) return i;
      throw new FormatError({
        code: 'layout-impossible',
        what: `no row has this ${field}`,
        found: showValue(value),
        hint: 'State `folders` in the recipe where rows of this table are to be added.',
      });
    },
  };
}

function neighbour(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 2);
  const [row, condition] = call.args;
  const bound = names.rows.findIndex((one) => row?.kind === 'name' && one.name === row.name);
  if (bound < 0) throw invalid(`${call.name} wants the row that each binds`, FILE_FUNCTIONS[call.name]!.call);
  uses.elsewhere = true;
  const test = compile(condition!);
  const step = call.name === 'before' ? -1 : 1;
  const { name, shape } = names.rows[bound]!;
  const find = neighbourFinder(bound, step, test.evaluate, namesOnly(name, condition!, names));
  uses.neighbours.push({ step, find });
  return { type: { kind: 'shape', shape }, evaluate: find };
}
