/** Turns checked expressions into closures; every name is resolved once, here, or is an error with its line. */
import { FormatError } from '../../faults';
import { parseExpression, type Expression } from '../language/expression';
import type { FieldType, Formula, Shape, Uses } from '../model';
import { bitsOf } from './bits';
import { applyOperator, arithmetic } from './arithmetic';
import { invalid, namesForContent } from './call-targets';
import { compileCall } from './calls';
import { ANY, NUMBER, noUses, TEXT, type Names, type Piece, type SharedLets } from './names';
import {
  isFields,
  isList,
  isPool,
  showValue,
  truthy,
  wholeNumber,
  type BlockFacts,
  type EntryFacts,
  type FolderFacts,
  type Scope,
  type Value,
  sameValue,
} from './value';

/**
 * Compiles a formula.
 *
 * @throws FormatError `recipe-invalid` with the line, what is wrong, and what would be known there
 */
export function compileFormula(text: string, line: number, names: Names): Formula {
  const uses = noUses();
  try {
    return formulaOf(parseExpression(text), text, line, names, uses);
  } catch (error) {
    throw error instanceof FormatError ? error.with({ line }) : error;
  }
}

/** The same from an expression that has been parsed already. */
export function formulaOf(
  expression: Expression,
  text: string,
  line: number,
  names: Names,
  uses: Uses = noUses(),
): Formula {
  const shared: SharedLets = { pieces: new Map(), repeated: false };
  const piece = compile(expression, { ...names, shared }, uses);
  return { text, line, uses, evaluate: withLets(piece.evaluate, shared), ...singleProperty(expression, names) };
}

/** Remembers the values of `let` names while the formula is worked out: named twice at each step, forty would never end. */
function withLets(evaluate: Piece['evaluate'], { repeated }: SharedLets): Piece['evaluate'] {
  if (!repeated) return evaluate;
  return (scope) => {
    const outer = scope.lets;
    scope.lets = new Map();
    try {
      return evaluate(scope);
    } finally {
      scope.lets = outer;
    }
  };
}

/** How deep names in `let` may build on one another. */
const MAX_LET_DEPTH = 32;

function letPiece(name: string, of: Expression, names: Names, uses: Uses): Piece {
  const { shared } = names;
  const known = shared?.pieces.get(name);
  if (known !== undefined) {
    shared!.repeated = true;
    return known;
  }
  const { letPath = [] } = names;
  if (letPath.length >= MAX_LET_DEPTH)
    throw invalid('names in let build on one another too deep', `at most ${MAX_LET_DEPTH} levels`);
  const inner = compile(of, { ...names, shape: undefined, letPath: [...letPath, name] }, uses);
  const piece: Piece = {
    type: inner.type,
    evaluate: (scope) => {
      // Formulas that name it once keep nothing: their values would outlast what they were worked out for.
      if (shared?.repeated !== true || scope.lets === undefined) return inner.evaluate(scope);
      if (scope.lets.has(piece)) return scope.lets.get(piece);
      const value = inner.evaluate(scope);
      scope.lets.set(piece, value);
      return value;
    },
  };
  shared?.pieces.set(name, piece);
  return piece;
}

function singleProperty(expression: Expression, names: Names): { entryProperty?: string; rowField?: number } {
  if (expression.kind !== 'member' || expression.of.kind !== 'name') return {};
  if (expression.of.name === 'entry') return { entryProperty: expression.name };
  const [row] = names.rows;
  if (expression.of.name !== row?.name) return {};
  const index = row.shape.fields.findIndex((field) => field.name === expression.name);
  return index < 0 ? {} : { rowField: index };
}

function compile(expression: Expression, names: Names, uses: Uses): Piece {
  switch (expression.kind) {
    case 'number': {
      const { value } = expression;
      return { type: NUMBER, evaluate: () => value };
    }
    case 'text': {
      const { value } = expression;
      return { type: TEXT, evaluate: () => value };
    }
    case 'name':
      return compileName(expression.name, names, uses);
    case 'member':
      return compileMember(expression, names, uses);
    case 'index':
      return compileIndex(expression, names, uses);
    case 'call':
      return compileCall(expression, names, uses, (inner, inside = names, used = uses) => compile(inner, inside, used));
    case 'unary': {
      const of = compile(expression.of, names, uses);
      if (expression.operator === 'not') return { type: NUMBER, evaluate: (scope) => !truthy(of.evaluate(scope)) };
      return { type: NUMBER, evaluate: (scope) => arithmetic('-', 0, of.evaluate(scope)) };
    }
    case 'binary':
      return compileBinary(expression, names, uses);
    case 'range':
      throw invalid('a range has no value', 'a range only in `must` and `bytes(first..last)`');
    default:
      return expression satisfies never;
  }
}

function compileBinary(expression: Expression & { kind: 'binary' }, names: Names, uses: Uses): Piece {
  const left = compile(expression.left, names, uses);
  const right = compile(expression.right, names, uses);
  const { operator } = expression;
  const type = operator === '+' ? (left.type.kind === 'value' ? left.type : right.type) : NUMBER;
  // `and` and `or` look at the right side only when they must: it may make no sense otherwise.
  if (operator === 'and')
    return { type, evaluate: (scope) => truthy(left.evaluate(scope)) && truthy(right.evaluate(scope)) };
  if (operator === 'or')
    return { type, evaluate: (scope) => truthy(left.evaluate(scope)) || truthy(right.evaluate(scope)) };
  // Most conditions compare for equality, once for each field of each row: they come without a further choice.
  if (operator === '==') return { type, evaluate: (scope) => sameValue(left.evaluate(scope), right.evaluate(scope)) };
  if (operator === '!=') return { type, evaluate: (scope) => !sameValue(left.evaluate(scope), right.evaluate(scope)) };
  return { type, evaluate: (scope) => applyOperator(operator, left.evaluate(scope), right.evaluate(scope)) };
}

const CONSTANTS: Readonly<Record<string, Value>> = { true: true, false: false, nothing: undefined };

function compileName(name: string, names: Names, uses: Uses): Piece {
  if (Object.hasOwn(CONSTANTS, name)) return { type: NUMBER, evaluate: () => CONSTANTS[name] };
  const index = names.shape?.indexOf(name) ?? -1;
  if (names.shape !== undefined && index >= 0) return siblingField(names.shape, index, name, names, uses);
  refuseHidden(name, names);
  const row = names.rows.findIndex((one) => one.name === name);
  if (row >= 0) {
    uses.entry.add('row');
    return { type: { kind: 'shape', shape: names.rows[row]!.shape }, evaluate: (scope) => scope.rows[row] };
  }
  const special = specialName(name, names, uses);
  if (special !== undefined) return special;
  // Within its own formula a name means what it means without `let`.
  const isOpen = names.letPath?.includes(name) === true;
  const known = isOpen ? undefined : names.lets.get(name);
  if (known !== undefined) return letPiece(name, known, names, uses);
  if (names.volumes?.has(name)) return { type: TEXT, evaluate: () => name };
  const region = names.regions.get(name);
  if (region !== undefined) {
    if (region.type === undefined) throw invalid(`region ${name} has no fields`);
    uses.elsewhere = true;
    uses.regions.add(region.index);
    const { index: regionIndex } = region;
    return { type: region.type, evaluate: (scope) => scope.file.region(regionIndex) };
  }
  if (names.slots.has(name)) return { type: { kind: 'value', of: 'bytes' }, evaluate: (scope) => scope.file.key(name) };
  if (isOpen) throw invalid(`${name} in let leads back to itself`, [...names.letPath!, name].join(', then '));
  throw invalid(`nothing here is called ${name}`, knownNames(names));
}

/** Words with a meaning of their own wherever a formula is. Only fields may be called so: they come first. */
const BUILT_IN: ReadonlySet<string> = new Set([
  ...['end', 'here', 'item', 'index', 'outer', 'own'],
  ...['entry', 'previous', 'block', 'volume', 'folder'],
]);

/** @throws FormatError `recipe-invalid` when a name of the recipe's own means something else already */
function refuseHidden(name: string, { shape, rows, regions, lets, slots, volumes }: Names): void {
  if (!BUILT_IN.has(name) || (shape !== undefined && shape.indexOf(name) >= 0)) return;
  // A shape may well be called folder or item, and its rows are then called so where entries are bound to them.
  const isRow = name !== 'folder' && name !== 'item' && rows.some((row) => row.name === name);
  const what = isRow
    ? 'a row'
    : regions.has(name)
      ? 'a region'
      : lets.has(name)
        ? 'a formula in let'
        : slots.has(name)
          ? 'a key slot'
          : volumes?.has(name) === true
            ? 'a volume'
            : undefined;
  if (what === undefined) return;
  throw invalid(`${name} is a built-in word, and ${what} is called so`, undefined, 'Give it another name.');
}

function knownNames(names: Names): string | undefined {
  const known = [
    ...(names.shape?.fields.map((field) => field.name) ?? []),
    ...names.rows.map((row) => row.name),
    ...names.regions.keys(),
    ...names.lets.keys(),
    ...names.slots,
    ...(names.entry ? ['entry'] : []),
    ...(names.block ? ['block'] : []),
    ...(names.folder ? ['folder'] : []),
    ...(names.own === undefined ? [] : ['own']),
  ];
  return known.length > 0 ? `one of ${known.join(', ')}` : undefined;
}

function siblingField(shape: Shape, index: number, name: string, names: Names, uses: Uses): Piece {
  if (names.before !== undefined && index >= names.before)
    throw invalid(`field ${name} is not read yet at this place`, 'a field before this one');
  uses.siblings.add(index);
  return {
    get type() {
      return shape.fields[index]!.kind.type;
    },
    evaluate: (scope) => scope.fields!.get(index),
  };
}

function specialName(name: string, names: Names, uses: Uses): Piece | undefined {
  switch (name) {
    case 'end':
      uses.layout = uses.place = true;
      uses.end = true;
      return { type: NUMBER, evaluate: (scope) => scope.file.volumeSize(scope.volume) };
    case 'here':
      uses.layout = uses.place = true;
      return { type: NUMBER, evaluate: (scope) => scope.here };
    case 'item':
      return names.item === undefined ? undefined : { type: names.item, evaluate: (scope) => scope.item };
    case 'index':
      return { type: NUMBER, evaluate: (scope) => scope.index };
    case 'own-index':
      return { type: NUMBER, evaluate: (scope) => scope.ownIndex ?? scope.index };
    case 'outer':
      uses.elsewhere = true;
      return { type: ANY, evaluate: (scope) => scope.outer.at(-1) };
    case 'own':
      if (names.own === undefined) return undefined;
      uses.entry.add('own');
      return { type: { kind: 'shape', shape: names.own }, evaluate: (scope) => scope.own };
    default:
      return undefined;
  }
}

function compileMember(expression: Expression & { kind: 'member' }, names: Names, uses: Uses): Piece {
  const { of: from, name } = expression;
  // A field or a row of that name comes first.
  const isTaken =
    from.kind === 'name' &&
    ((names.shape?.indexOf(from.name) ?? -1) >= 0 || names.rows.some((row) => row.name === from.name));
  if (from.kind === 'name') refuseHidden(from.name, names);
  if (from.kind === 'name' && !isTaken) {
    if (from.name === 'entry' || from.name === 'previous') return compileEntry(from.name, name, names, uses);
    if (from.name === 'block') return compileBlock(name, names, uses);
    if (from.name === 'volume') return compileVolume(name, uses);
    if (from.name === 'folder') return compileFolder(name, names, uses);
  }
  if (from.kind === 'name' && from.name === 'outer' && name === 'outer') {
    uses.elsewhere = true;
    return { type: ANY, evaluate: (scope) => scope.outer.at(-2) };
  }
  const of = compile(from, names, uses);
  const { type } = of;
  if (type.kind === 'value' && type.parts !== undefined) {
    const part = type.parts.get(name);
    if (part === undefined) throw invalid(`there is no part ${name}`, `one of ${[...type.parts.keys()].join(', ')}`);
    const { shift, width } = part;
    return {
      type: NUMBER,
      evaluate: (scope) => {
        const value = of.evaluate(scope);
        return value === undefined ? undefined : bitsOf(value, shift, width);
      },
    };
  }
  if (type.kind === 'any') {
    names.askedNames.add(name);
    return dynamicMember(of, name);
  }
  if (type.kind !== 'shape') throw invalid(`.${name} needs a shape before the dot`);
  const { shape } = type;
  const index = shape.indexOf(name);
  if (index < 0) {
    throw invalid(
      `shape ${shape.name} has no field ${name}`,
      `one of ${shape.fields.map((field) => field.name).join(', ')}`,
    );
  }
  shape.fields[index]!.asked = true;
  uses.fields.push({ shape, index });
  return {
    get type() {
      return shape.fields[index]!.kind.type;
    },
    evaluate: (scope) => (of.evaluate(scope) as { get(index: number): Value } | undefined)?.get(index),
  };
}

/** A field whose shape depends on the file, or bits of such a field; one that is not there is nothing. */
function dynamicMember(of: Piece, name: string): Piece {
  return {
    type: ANY,
    evaluate: (scope) => {
      const value = of.evaluate(scope);
      if (isFields(value)) {
        const index = value.shape.indexOf(name);
        return index < 0 ? undefined : value.get(index);
      }
      const part = value === undefined ? undefined : of.partsOf?.(scope)?.get(name);
      return part === undefined ? undefined : bitsOf(value, part.shift, part.width);
    },
    partsOf: (scope) => {
      const value = of.evaluate(scope);
      if (!isFields(value)) return undefined;
      const type = value.shape.fields[value.shape.indexOf(name)]?.kind.type;
      return type?.kind === 'value' ? type.parts : undefined;
    },
  };
}

const ENTRY_FACTS: Readonly<Record<string, { type: FieldType; layout?: boolean; get(entry: EntryFacts): Value }>> = {
  index: { type: NUMBER, layout: true, get: (entry) => entry.index },
  path: { type: TEXT, get: (entry) => entry.path },
  name: { type: TEXT, get: (entry) => entry.path.slice(entry.path.lastIndexOf('/') + 1) },
  folder: { type: TEXT, get: (entry) => entry.path.slice(0, Math.max(0, entry.path.lastIndexOf('/'))) },
  'folder-index': { type: NUMBER, layout: true, get: (entry) => entry.folderIndex },
  at: { type: NUMBER, layout: true, get: (entry) => entry.at },
  end: { type: NUMBER, layout: true, get: (entry) => entry.at + entry.stored },
  stored: { type: NUMBER, get: (entry) => entry.stored },
  size: { type: NUMBER, get: (entry) => entry.size },
  method: { type: ANY, get: (entry) => entry.method },
  volume: { type: NUMBER, layout: true, get: (entry) => entry.volume },
  'volume-set': { type: TEXT, layout: true, get: (entry) => entry.volumeSet },
  time: { type: NUMBER, get: (entry) => entry.time },
  deleted: { type: NUMBER, get: (entry) => entry.deleted },
  hash: { type: ANY, get: (entry) => entry.hash },
  id: { type: ANY, get: (entry) => entry.id },
  'first-block': { type: NUMBER, layout: true, get: (entry) => entry.firstBlock },
  'block-count': { type: NUMBER, get: (entry) => entry.blockCount },
};

/** The facts of entries that formulas can name. */
export const ENTRY_FACT_NAMES: readonly string[] = [...Object.keys(ENTRY_FACTS), 'room'];

function compileEntry(which: 'entry' | 'previous', property: string, names: Names, uses: Uses): Piece {
  if (!names.entry)
    throw invalid(`there is no ${which} here`, 'in the rows of the entries, in `wrap`, and in `entries`');
  uses.entry.add(which === 'previous' ? 'previous' : property);
  if (which === 'previous') {
    uses.layout = uses.place = true;
    const fact = ENTRY_FACTS[property];
    if (fact === undefined) throw invalid(`an entry has no ${property}`, `one of ${ENTRY_FACT_NAMES.join(', ')}`);
    // Before the first entry everything is 0.
    return { type: fact.type, evaluate: (scope) => (scope.previous === undefined ? 0 : fact.get(scope.previous)) };
  }
  if (property === 'room') {
    uses.layout = uses.place = true;
    return { type: NUMBER, evaluate: (scope) => scope.room };
  }
  const fact = ENTRY_FACTS[property];
  if (fact === undefined) {
    const hint =
      property === 'data' || property === 'packed' ? `Bytes can only be hashed: crc32(entry.${property}).` : undefined;
    throw invalid(`an entry has no ${property}`, `one of ${ENTRY_FACT_NAMES.join(', ')}, data, packed`, hint);
  }
  if (fact.layout) uses.layout = uses.place = true;
  return {
    type: fact.type,
    // Rows that hold no entry see nothing.
    evaluate: (scope) => (scope.entry === undefined ? undefined : fact.get(scope.entry)),
  };
}

const BLOCK_FACTS: Readonly<Record<string, (block: BlockFacts, scope: Scope) => Value>> = {
  index: (block) => block.index,
  number: (block) => block.number,
  at: (block) => block.at,
  place: (block, { entry }) => block.place ?? (entry === undefined ? undefined : entry.at + block.at),
  stored: (block) => block.stored,
  size: (block) => block.size,
  raw: (block) => block.raw,
  uses: (block, { file }) => file.blockUses(block.number),
};

function compileBlock(property: string, names: Names, uses: Uses): Piece {
  const fact = BLOCK_FACTS[property];
  if (!names.block) throw invalid('there is no block here', 'where entries have `blocks`');
  if (fact === undefined) throw invalid(`a block has no ${property}`, `one of ${Object.keys(BLOCK_FACTS).join(', ')}`);
  uses.entry.add('block');
  if (property === 'place') uses.layout = uses.place = true;
  if (property === 'number' || property === 'uses') uses.layout = true;
  return {
    type: NUMBER,
    evaluate: (scope) => (scope.block === undefined ? undefined : fact(scope.block, scope)),
  };
}

const FOLDER_FACTS: Readonly<Record<string, { type: FieldType; get(folder: FolderFacts): Value }>> = {
  index: { type: NUMBER, get: (folder) => folder.index },
  path: { type: TEXT, get: (folder) => folder.path },
  name: { type: TEXT, get: (folder) => folder.name },
  parent: { type: NUMBER, get: (folder) => folder.parent },
  count: { type: NUMBER, get: (folder) => folder.count },
  first: { type: NUMBER, get: (folder) => folder.first },
  all: { type: NUMBER, get: (folder) => folder.all },
  folders: { type: NUMBER, get: (folder) => folder.folders },
};

function compileVolume(property: string, uses: Uses): Piece {
  uses.layout = uses.place = true;
  if (property === 'number') return { type: NUMBER, evaluate: (scope) => scope.file.volumeFacts(scope.volume).number };
  if (property === 'count') return { type: NUMBER, evaluate: (scope) => scope.file.volumeFacts(scope.volume).count };
  if (property === 'size') return { type: NUMBER, evaluate: (scope) => scope.file.volumeSize(scope.volume) };
  throw invalid(`a volume has no ${property}`, 'one of number, count, size');
}

function compileFolder(property: string, names: Names, uses: Uses): Piece {
  const fact = FOLDER_FACTS[property];
  if (!names.folder) throw invalid('there is no folder here', 'where entries have `folders`');
  if (fact === undefined)
    throw invalid(`a folder has no ${property}`, `one of ${Object.keys(FOLDER_FACTS).join(', ')}`);
  if (property !== 'path' && property !== 'name') uses.layout = uses.place = true;
  uses.entry.add('folder');
  return { type: fact.type, evaluate: (scope) => (scope.folder === undefined ? undefined : fact.get(scope.folder)) };
}

function compileIndex(expression: Expression & { kind: 'index' }, names: Names, uses: Uses): Piece {
  if (expression.at === undefined) throw invalid('an index is missing', 'name[number]');
  const at = compile(expression.at, names, uses);
  if (expression.of.kind === 'name' && names.volumes?.has(expression.of.name)) {
    const set = expression.of.name;
    return { type: TEXT, evaluate: (scope) => `${set}[${wholeNumber(at.evaluate(scope), 'the number of a volume')}]` };
  }
  const of = compile(expression.of, namesForContent(expression.of, names), uses);
  const { type } = of;
  if (type.kind === 'pool') {
    return {
      type: TEXT,
      evaluate: (scope) => {
        const pool = of.evaluate(scope);
        const index = wholeNumber(at.evaluate(scope), 'the index');
        return isPool(pool) ? pool.text(index) : undefined;
      },
    };
  }
  if (type.kind !== 'list' && type.kind !== 'any') throw invalid('only a repeated field has items', 'name[number]');
  return {
    type: type.kind === 'list' ? type.of : ANY,
    evaluate: (scope: Scope) => {
      const list = of.evaluate(scope);
      const index = wholeNumber(at.evaluate(scope), 'the index');
      if (isList(list) && index < list.length) return list.at(index);
      throw new FormatError({
        code: 'must-differs',
        what: 'an index is past the end of its list',
        expected: isList(list) ? `below ${list.length}` : 'a list',
        found: isList(list) ? String(index) : showValue(list),
      });
    },
  };
}
