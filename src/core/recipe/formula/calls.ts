/** Calls in formulas: the plain functions, those that look at the file, and hashes. */
import { createHasher, hasherNames, hashOf } from '../../codecs';
import { FormatError } from '../../faults';
import type { Expression } from '../language/expression';
import type { FieldType, Shape, Uses } from '../model';
import { aggregate, AGGREGATES } from './aggregates';
import { wrongType } from './arithmetic';
import { PLAIN_FUNCTIONS, type PlainFunction } from './functions';
import { ANY, BYTES, NUMBER, TEXT, type Names, type Piece } from './names';
import {
  isFields,
  isList,
  isPool,
  sameValue,
  truthy,
  wholeNumber,
  type Fields,
  type PoolValue,
  type Scope,
  type Value,
} from './value';

export type Call = Expression & { kind: 'call' };
/** Compiles a part; `uses` are those of the whole formula when left out. */
export type Compile = (expression: Expression, names?: Names, uses?: Uses) => Piece;

export function invalid(what: string, expected?: string, hint?: string): FormatError {
  return new FormatError({
    code: 'recipe-invalid',
    what,
    ...(expected === undefined ? {} : { expected }),
    ...(hint === undefined ? {} : { hint }),
  });
}

/** Calls that need more than the values of their arguments, with their use for messages and the reference. */
export const FILE_FUNCTIONS: Readonly<Record<string, { readonly call: string; readonly about: string }>> = {
  if: { call: 'if(condition, a, b)', about: 'a where the condition holds, else b' },
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
  volumes: { call: 'volumes()', about: 'how many data volumes there are' },
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
    case 'volume':
      throw invalid(
        `${call.name}(…) gives bytes of the file, and they can only be hashed`,
        `such as crc32(${call.name}(…))`,
      );
    default:
      return hashCall(call, names, uses, compile);
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

/** A field named in a formula: the instance it belongs to, and its number there. */
function fieldNamed(
  expression: Expression,
  names: Names,
  uses: Uses,
  compile: Compile,
): { of: (scope: Scope) => Fields | undefined; index: number } | undefined {
  if (expression.kind === 'name' && names.shape !== undefined) {
    const index = names.shape.indexOf(expression.name);
    if (index < 0) return undefined;
    mark(names.shape, index);
    return { of: (scope) => scope.fields, index };
  }
  if (expression.kind !== 'member') return undefined;
  const of = compile(expression.of);
  if (of.type.kind !== 'shape') return undefined;
  const index = of.type.shape.indexOf(expression.name);
  if (index < 0) throw invalid(`shape ${of.type.shape.name} has no field ${expression.name}`);
  mark(of.type.shape, index);
  uses.elsewhere = true;
  return { of: (scope) => of.evaluate(scope) as Fields | undefined, index };
}

function mark(shape: Shape, index: number): void {
  shape.fields[index]!.marked = true;
}

/** A region is meant where a name is also that of a mere number beside it: `count(names)` next to a field `names: u32`. */
export function namesForContent(of: Expression, names: Names): Names {
  if (of.kind !== 'name' || !names.regions.has(of.name)) return names;
  const type = names.shape?.fields[names.shape.indexOf(of.name)]?.kind.type;
  return type?.kind === 'value' && type.of === 'number' ? { ...names, shape: undefined } : names;
}

/** A name that is a region and a field: a mere number is not what is meant; anything else is not clear. */
function isRegion(of: Expression, names: Names, call: string): boolean {
  if (of.kind !== 'name' || !names.regions.has(of.name)) return false;
  const index = names.shape?.indexOf(of.name) ?? -1;
  if (index < 0) return true;
  const { type } = names.shape!.fields[index]!.kind;
  if (type.kind === 'value' && type.of === 'number') return true;
  throw invalid(
    `${of.name} is a region and a field here`,
    `${call}(…) of a name that is only one of them`,
    'Rename the field or the region.',
  );
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

/** `volume(NAME)` or `volume(NAME, number)`: the place of a volume among the opened ones, -1 for one that is not there. */
function volumeNamed(call: Call, names: Names, compile: Compile): (scope: Scope) => number {
  const [of, number] = call.args;
  const set = of?.kind === 'name' ? of.name : '';
  const isNumbered = names.volumeSets?.get(set);
  if (isNumbered === undefined)
    throw invalid(
      `there is no volume ${set || 'like that'}`,
      `one of ${[...(names.volumeSets?.keys() ?? [])].join(', ')}`,
    );
  if (isNumbered !== (number !== undefined) || call.args.length > 2)
    throw invalid(
      isNumbered ? `${set} is a numbered set of volumes` : `${set} is one volume`,
      isNumbered ? `volume(${set}, 0)` : `volume(${set})`,
    );
  const piece = number === undefined ? undefined : compile(number);
  return (scope) =>
    scope.file.volumeIndex(
      set,
      piece === undefined ? undefined : wholeNumber(piece.evaluate(scope), 'the number of a volume'),
    );
}

function regionNamed(expression: Expression, names: Names, call: string): number {
  const region = expression.kind === 'name' ? names.regions.get(expression.name) : undefined;
  if (region !== undefined) return region.index;
  const fields = names.shape?.fields.map((field) => field.name) ?? [];
  throw invalid(`${call} wants a region or a field`, `one of ${[...fields, ...names.regions.keys()].join(', ')}`);
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
        found: String(value),
        hint: 'State `folders` in the recipe where rows of this table are to be added.',
      });
    },
  };
}

/** How many rows are looked at for a neighbour. */
const MAX_NEIGHBOURS = 4096;

function neighbour(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 2);
  const [row] = call.args;
  const bound = names.rows.findIndex((one) => row?.kind === 'name' && one.name === row.name);
  if (bound < 0) throw invalid(`${call.name} wants the row that each binds`, FILE_FUNCTIONS[call.name]!.call);
  uses.elsewhere = true;
  const test = compile(call.args[1]!);
  const step = call.name === 'before' ? -1 : 1;
  const find = (scope: Scope): Fields | undefined => {
    if (scope.alone) return undefined;
    const { rows, lets } = scope;
    const start = rows[bound] as (Fields & { neighbour?(by: number): Fields | undefined }) | undefined;
    try {
      for (let by: number = step, seen = 0; seen < MAX_NEIGHBOURS; by += step, seen++) {
        const other = start?.neighbour?.(by);
        if (other === undefined) return undefined;
        scope.rows = rows.with(bound, other);
        scope.lets = undefined;
        if (truthy(test.evaluate(scope))) return other;
      }
      return undefined;
    } finally {
      scope.rows = rows;
      scope.lets = lets;
    }
  };
  uses.neighbours.push({ step, find });
  return { type: { kind: 'shape', shape: names.rows[bound]!.shape }, evaluate: find };
}

/** The name of a hash with its seed, when it has one: the key under which content hashes are kept. */
function hasherKey(call: Call, names: Names): string {
  const own = names.hashes.get(call.name);
  if (own !== undefined) return own;
  const seed = call.named['seed'];
  if (seed === undefined) return call.name;
  if (seed.kind !== 'number') throw invalid(`the seed of ${call.name} is a number`, `${call.name}(…, seed: 5)`);
  return `${call.name}@${seed.value}`;
}

function hashCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  const own = names.hashes.has(call.name);
  if (!own && !hasherNames().includes(call.name)) {
    const known = [
      ...Object.keys(FILE_FUNCTIONS),
      ...Object.keys(PLAIN_FUNCTIONS),
      ...hasherNames(),
      ...names.hashes.keys(),
    ];
    throw invalid(
      `there is no function ${call.name}`,
      `one of ${known.sort().join(', ')}; and, for a hash to run over, blanked, bytes, plain, span, stored`,
    );
  }
  const [of] = call.args;
  if (of === undefined || call.args.length !== 1 || Object.keys(call.named).some((name) => own || name !== 'seed'))
    throw invalid(`${call.name} takes one value, and a seed where it has one`, `${call.name}(text or bytes)`);
  const hasher = hasherKey(call, names);
  // What a hash of the recipe's own gives is known when it has run.
  const type: FieldType = own ? ANY : createHasher(hasher).digest() instanceof Uint8Array ? BYTES : NUMBER;
  const thing = hashedThing(of, hasher, names, uses, compile);
  if (thing !== undefined) return { type, evaluate: thing };
  const value = compile(of);
  return {
    type,
    evaluate: (scope) => {
      const bytes = value.evaluate(scope);
      if (typeof bytes === 'string') return hashOf(hasher, new TextEncoder().encode(bytes));
      if (bytes instanceof Uint8Array) return hashOf(hasher, bytes);
      throw wrongType(call.name, 'a text or bytes', bytes);
    },
  };
}

/** A hash over something that is no value: worked out elsewhere, asked for here. */
function hashedThing(
  of: Expression,
  hasher: string,
  names: Names,
  uses: Uses,
  compile: Compile,
): ((scope: Scope) => Value) | undefined {
  if (of.kind === 'member' && of.of.kind === 'name' && of.of.name === 'entry') {
    if (of.name !== 'data' && of.name !== 'packed') return undefined;
    if (!names.entry) throw invalid('there is no entry here');
    const which = of.name;
    if (!uses.content.some((one) => one.which === which && one.hasher === hasher)) uses.content.push({ which, hasher });
    return (scope) => scope.entry?.content(which, hasher);
  }
  if (of.kind !== 'call') return undefined;
  if (of.name === 'plain' || of.name === 'stored') {
    const region = regionNamed(of.args[0]!, names, of.name);
    const which = of.name;
    uses.regionBytes.add(region);
    uses.layout = uses.place = true;
    return (scope) => hashOf(hasher, scope.file.bytes(region, which));
  }
  if (of.name === 'blanked') {
    const [inner, fill] = of.args;
    if (inner?.kind !== 'call' || names.field === undefined || names.shape === undefined)
      throw invalid('blanked wants bytes(…) or span(…), in the formula of a field', 'blanked(span(0, end))');
    mark(names.shape, names.field);
    const { field } = names;
    const fillOf = fill === undefined ? undefined : compile(fill);
    const { span, space } = spanOf(inner, names, uses, compile);
    return (scope) => {
      const [from, to] = span(scope);
      const at = scope.fields!.startOf(field);
      const length = scope.fields!.lengthOf(field);
      const blank = { at, length, fill: fillOf === undefined ? 0 : wholeNumber(fillOf.evaluate(scope), 'the fill') };
      return scope.file.spanHash(hasher, { space, volume: scope.volume }, from, to, blank);
    };
  }
  if (of.name === 'volume') {
    const volume = volumeNamed(of, names, compile);
    uses.layout = uses.place = uses.late = true;
    return (scope) => {
      const index = volume(scope);
      if (index < 0) return undefined;
      return scope.file.spanHash(
        hasher,
        { space: undefined, volume: index },
        0,
        scope.file.volumeSize(index),
        undefined,
      );
    };
  }
  if (of.name !== 'bytes' && of.name !== 'span') return undefined;
  const { span, space } = spanOf(of, names, uses, compile);
  return (scope) => {
    const [from, to] = span(scope);
    return scope.file.spanHash(hasher, { space, volume: scope.volume }, from, to, undefined);
  };
}

interface Span {
  readonly span: (scope: Scope) => [number, number];
  /** The unlocked region it lies in; undefined for the file. */
  readonly space: number | undefined;
}

function spanOf(call: Call, names: Names, uses: Uses, compile: Compile): Span {
  uses.layout = true;
  // Fields around an entry's bytes are the same bytes wherever these lie.
  uses.place ||= !(call.name === 'bytes' && names.around === true);
  uses.late = true;
  if (call.name === 'span') {
    const [from, to] = call.args.map((arg) => compile(arg));
    if (from === undefined || to === undefined) throw invalid('span wants two offsets', 'span(0, start(index))');
    const span = (scope: Scope): [number, number] => [
      wholeNumber(from.evaluate(scope), 'the start of the span'),
      wholeNumber(to.evaluate(scope), 'the end of the span'),
    ];
    return { span, space: names.space };
  }
  const [range] = call.args;
  const from = range?.kind === 'range' ? range.from : range;
  const to = range?.kind === 'range' ? range.to : range;
  const first = from === undefined ? undefined : fieldNamed(from, names, uses, compile);
  const last = to === undefined ? undefined : fieldNamed(to, names, uses, compile);
  if (call.name !== 'bytes' || first === undefined || last === undefined)
    throw invalid('bytes wants fields of this shape, or one field of a region', 'bytes(first..last)');
  if (names.around === true && names.shape !== undefined) {
    const covered = names.shape.fields.slice(first.index, last.index + 1);
    if (covered.some(({ kind }) => kind.type.kind === 'data'))
      throw invalid(
        'bytes(…) around an entry cannot cover its data',
        'a hash over the entry itself',
        'Use crc32(entry.packed) for its stored bytes, crc32(entry.data) for the plain ones.',
      );
  }
  const span = (scope: Scope): [number, number] => {
    const start = first.of(scope);
    const end = last.of(scope);
    return [start?.startOf(first.index) ?? 0, (end?.startOf(last.index) ?? 0) + (end?.lengthOf(last.index) ?? 0)];
  };
  return { span, space: spaceOf(from!, names) };
}

/** Offsets of a field named through its region count in that region. */
function spaceOf(expression: Expression, names: Names): number | undefined {
  let root = expression;
  while (root.kind === 'member') root = root.of;
  const region = root !== expression && root.kind === 'name' ? names.regions.get(root.name) : undefined;
  if (region === undefined) return names.space;
  return names.unlocked?.has(region.index) === true ? region.index : undefined;
}
